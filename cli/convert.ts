/** `convert PATH --format ID ... --to PATH`: pours one source and proves the result. */
import { sayTags } from '../core/frame/colour-tags'
import { mostOf, type AlphaHalf } from '../core/frame/stacked'
import path from 'node:path'
import { impossible, wrongCall } from '../core/base/errors'
import { assess } from '../core/run/delivery/assess'
import { nameUnder } from '../core/run/delivery/existing'
import { pourInto, proveDelivered, type Depot } from '../core/run/delivery/delivery'
import type { FileRef } from '../core/base/files/file'
import { zipSink, type FilesSink } from '../core/base/files/sinks'
import type { Target } from '../core/media/formats/traits/writing'
import { formatById, runsOn } from '../core/open/registry'
import { newOutlet, type Outlet } from '../core/job/outlet/outlet'
import { settingsInOrder, Sound } from '../core/job/outlet/settings'
import { readOutlet } from '../core/job/outlet/text'
import { DEMANDS, readReceiver, unmet, type Unmet } from '../core/job/outlet/receiver'
import { withOwnSteps } from '../core/job/outlet/own-steps'
import type { Marks } from '../core/job/marks'
import { isCalled, type PourPlan } from '../core/job/outlet/plan'
import type { ProofReport } from '../core/judge/proof/report'
import { sayLedger } from '../core/judge/ledger/ledger'
import { parseRate } from '../core/base/rate'
import { lookingAt } from '../core/run/intake/intake'
import { isRateNote } from '../core/run/intake/rate-hints'
import { interpretedFacts, soundAt } from '../core/open/interpret'
import type { SourceSpec } from '../core/source/source'
import { exists, fileAt } from '../platform/node/disk'
import { inOrder } from '../core/base/pool'
import { nodeCodecs } from '../platform/node/host'
import { fileSink, fileSinks, folderSink, type Waiting } from '../platform/node/place'
import { placeAsked } from '../platform/node/resolved'
import { placesOf as placesRead, refuseSame, refuseWithin } from '../platform/node/same'
import { bringOne, decided, tellFindings, wholeSpec, type Brought } from './bring-in'
import { takingOf, type Taking } from './taking'
import { preparer, type Prepared } from './prepare'
import { needed, parseAlpha, text, type Call, type Options } from './call'
import { EXIT } from './exit'
import { readAt } from './text-at'
import { optionValues, problemOf, typedValue } from '../core/base/settings/field'

/** Settings of --set that are the outlet's own rather than the format's, by the names they have there. */
const OWN_TYPED = settingsInOrder.flatMap(([key, { schema, typed = {} }]) =>
  Object.entries(typed).map(([flag, how]) => ({ flag, key, schema, ...how }))
)
const OWN = [...new Set(OWN_TYPED.map(({ flag }) => flag))]

/** The outlet with what was typed for one of its own settings. */
function withOwn(outlet: Outlet, flag: string, value: string): Outlet {
  for (const { flag: own, key, schema, takes, read } of OWN_TYPED) {
    const given = own === flag ? read(value, outlet[key]) : undefined
    if (given === undefined) continue
    const result = schema.safeParse(given)
    if (!result.success) throw wrongCall(`--set ${flag} takes ${takes}, not "${value}"`)
    return { ...outlet, [key]: result.data }
  }
  throw wrongCall(`--set ${flag} does not take "${value}"`)
}

function settings(outlet: Outlet, pairs: readonly string[]): Outlet {
  const format = formatById(outlet.format)
  let result = outlet
  for (const pair of pairs) {
    const [key, value] = [pair.slice(0, pair.indexOf('=')), pair.slice(pair.indexOf('=') + 1)]
    if (!pair.includes('=') || key === '') throw wrongCall(`--set takes key=value, not "${pair}"`)
    const field = Object.hasOwn(format.options, key) ? format.options[key] : undefined
    if (field) {
      const typed = typedValue(field, value)
      const problem = problemOf(field, typed)
      if (problem) throw impossible(problem)
      result = { ...result, options: { ...result.options, [key]: typed as string | number | boolean } }
    } else if (OWN.includes(key)) result = withOwn(result, key, value)
    else
      throw wrongCall(
        `${format.name} has no setting "${key}"; it has ${[...Object.keys(format.options), ...OWN].join(', ')}`
      )
  }
  return { ...result, options: optionValues(format.options, result.options) }
}

/** Demands that `--waive` names. */
export function waivedBy(options: Options): string[] {
  const names =
    text(options, 'waive')
      ?.split(',')
      .map(name => name.trim()) ?? []
  const strange = names.find(name => !(DEMANDS as readonly string[]).includes(name))
  if (strange !== undefined) throw wrongCall(`--waive takes ${DEMANDS.join(', ')}, not "${strange}"`)
  return names
}

/** What `--receiver FILE` demands, and what of it `--waive` lets be. */
async function receiverOf(options: Options): Promise<Call['receiver']> {
  const location = text(options, 'receiver')
  const waived = waivedBy(options)
  if (location === undefined) {
    if (waived.length) throw wrongCall('--waive goes with --receiver')
    return null
  }
  return { demands: await readAt(location, 'what the receiver demands', readReceiver), waived }
}

/** Throws where an outlet's format needs a browser. */
export function runsHere({ format: id }: Pick<Outlet, 'format'>): void {
  const format = formatById(id)
  if (!runsOn(format, nodeCodecs)) throw impossible(`${format.name} is written by the browser; pour it there`)
}

/** Where a plan's delivery goes within a folder; `free` makes its name one that is not taken. */
export function placeIn(folder: string, plan: PourPlan, free = (name: string): string => name): string {
  const { delivers, extension } = formatById(plan.outlet.format)
  if (delivers !== 'film') return path.join(folder, free(plan.name))
  // of a pair the parts are named beside each other
  return path.join(folder, plan.key ? `${free(plan.name)}.${extension}` : free(plan.fileName))
}

/** Options that an outlet's file decides. */
const OF_THE_OUTLET = ['format', 'alpha', 'matte', 'depth', 'sound']

/** The outlet that `--outlet FILE` names, and `--set` changes. */
async function outletAt(location: string, options: Options): Promise<Outlet> {
  const double = OF_THE_OUTLET.find(name => text(options, name) !== undefined)
  if (double)
    throw wrongCall(`--${double} is said by the outlet's file already; change it there, or leave --outlet away`)
  const read = await readAt(location, 'the outlet', readOutlet)
  runsHere(read)
  return settings({ ...read, id: 'cli', existing: 'stop' }, (options.set as string[] | undefined) ?? [])
}

function outletFrom(options: Options, bitDepth: number): Outlet {
  const format = formatById(needed(options, 'format'))
  if (format.readOnly) throw impossible(`${format.name} is not written: ${format.readOnly}`)
  runsHere({ format: format.id })
  let outlet: Outlet = { ...newOutlet('cli', format), framePattern: '{frame}', existing: 'stop' }
  const depth = text(options, 'depth')
  const closest = format.depths.find(d => d.depth >= bitDepth) ?? format.depths.at(-1)!
  if (depth !== undefined && !format.depths.some(d => String(d.depth) === depth))
    throw impossible(
      `${format.name} has no depth of ${depth} bits; it has ${format.depths.map(d => d.depth).join(' and ')}`
    )
  outlet = { ...outlet, depth: depth === undefined ? closest.depth : (Number(depth) as Outlet['depth']) }
  const alpha = text(options, 'alpha')
  const sound = text(options, 'sound')
  if (sound !== undefined) {
    const chosen = Sound.safeParse(sound)
    if (!chosen.success) throw wrongCall(`--sound takes none or as-is, not "${sound}"`)
    outlet = { ...outlet, sound: chosen.data }
  }
  const matte = text(options, 'matte')
  if (matte !== undefined && alpha === undefined) throw wrongCall('--matte goes with --alpha premultiplied')
  if (alpha !== undefined) {
    const asked = parseAlpha(alpha, 'alpha', matte)
    // of a format without alpha that is colour alone; with it, a fill and its key
    outlet = { ...outlet, alpha: asked, parts: asked.mode === 'none' ? 'colour-alpha' : outlet.parts }
  }
  return settings(outlet, (options.set as string[] | undefined) ?? [])
}

/** Where the parts of a pair of films go: beside each other, named after the place asked for. */
function partAt(at: string, part: '_fill' | '_key'): string {
  const { dir, name, ext } = path.parse(at)
  return path.join(dir, name + part + ext)
}

/** The files of a delivery of films at a place: one, or a fill and its key. */
function filmsAt(at: string, plan: PourPlan): string[] {
  return plan.key ? [partAt(at, '_fill'), partAt(at, '_key')] : [at]
}

const namesOf = (plan: PourPlan): string[] => [...plan.deliverable.names, ...(plan.key?.deliverable.names ?? [])]

/**
 * A ZIP when the name says so, else a folder, for pictures; the file itself for films. `files` tells where each lies,
 * once all are written. Nothing that the source is read
 * from is written to.
 */
async function targetAt(
  to: string,
  plan: PourPlan,
  sources: readonly string[]
): Promise<{ target: Target; at: string; files: () => string[]; waiting: Waiting }> {
  const format = formatById(plan.outlet.format)
  const zipped = /\.zip$/i.test(to)
  const at =
    format.delivers === 'film' && (await exists(to)) && !path.extname(to)
      ? path.join(to, `${plan.name}.${format.extension}`)
      : to
  const placesOf = (location: string): string[] =>
    format.delivers === 'film'
      ? filmsAt(location, plan)
      : zipped
        ? [location]
        : [location, ...namesOf(plan).map(name => path.join(location, name))]
  await refuseSame(sources, placesOf(at))
  const written = new Set(namesOf(plan))
  const former = (name: string): boolean =>
    !written.has(name) && (plan.pictures ?? []).some(called => isCalled(name, called))
  const replaces = plan.outlet.existing === 'replace'
  // of a sequence that is replaced no picture stays that the new one does not have
  if (replaces && format.delivers !== 'film' && !zipped) await refuseWithin(sources, at, former)
  const holds = async (location: string): Promise<boolean> => {
    if (format.delivers === 'film') return (await Promise.all(filmsAt(location, plan).map(exists))).some(Boolean)
    if (zipped) return exists(location)
    return (await Promise.all(namesOf(plan).map(name => exists(path.join(location, name))))).some(Boolean)
  }
  const place = await nameUnder({
    policy: plan.outlet.existing,
    wanted: at,
    has: holds,
    refusal:
      `${at} is there already; say --replace (or --set existing=replace) to write over it, or --set ` +
      'existing=keep-both'
  })
  // nothing takes its place before it is proven
  let waiting: Waiting | undefined
  const placing = { replace: replaces, former, hold: (each: Waiting) => void (waiting = each) }
  if (format.delivers === 'film') {
    const [sink, key] = await fileSinks(filmsAt(place, plan), placing)
    return {
      target: { kind: 'film', sink: sink!, ...(key ? { key } : {}) },
      at: place,
      files: () => filmsAt(place, plan),
      waiting: waiting!
    }
  }
  // the archive's date is fixed, so that the same pour gives the same bytes
  const sink = zipped ? zipSink(await fileSink(place, placing), new Date(1980, 0, 1)) : await folderSink(place, placing)
  const names: string[] = []
  const noting: FilesSink = {
    ...sink,
    async add(name, bytes) {
      await sink.add(name, bytes)
      names.push(name)
    }
  }
  return {
    target: { kind: 'pictures', sink: noting },
    at: place,
    files: () => (zipped ? [place] : names.filter(name => !isRateNote(name)).map(name => path.join(place, name))),
    waiting: waiting!
  }
}

export async function convert(location: string, options: Options, call: Call): Promise<number> {
  const to = needed(options, 'to')
  const receiver = await receiverOf(options)
  // a wrong call should not wait for files to be read
  const file = text(options, 'outlet')
  const recipe = file === undefined ? null : await outletAt(file, options)
  if (!recipe) formatById(needed(options, 'format'))
  return pourBrought({ brought: await decided(await bringOne(location, call), options, call), to, recipe }, options, {
    ...call,
    receiver
  })
}

/** A film whose picture is taken as halves of colour and alpha, or as one picture whatever it says. */
async function takenApart({ spec, facts }: Brought, asked: string, call: Call): Promise<Brought> {
  const [, half, width, height] = /^(none|below|above|right|left)(?::(\d{1,5})x(\d{1,5}))?$/.exec(asked) ?? []
  if (!half || (half === 'none' && width))
    throw wrongCall(`--halves takes none, below, above, right or left, with or without :WxH, not "${asked}"`)
  if (facts.claim.mode !== 'none' && !spec.interpretation.stacked)
    throw impossible(`${facts.name} has alpha of its own; --halves is for films without`)
  const whole = { ...spec, findings: [], interpretation: { ...spec.interpretation, alpha: null, stacked: null } }
  const looking = lookingAt(call.host)
  if (half === 'none') return { spec: { ...whole, findings: spec.findings }, facts: await looking.describe(whole) }
  const most = mostOf(half as AlphaHalf, await looking.describe(whole))
  const stacked = width ? { ...most, width: Number(width), height: Number(height) } : most
  const taken = { ...whole, interpretation: { ...whole.interpretation, stacked } }
  return { spec: taken, facts: await looking.describe(taken) }
}

/** What stands against a pour, with the option that helps. */
const withOption = (problem: string): string =>
  problem.replace(/Give its rate first\.$/, 'Give it with --rate, such as --rate 25 or --rate 30000/1001.')

/** Pours a source that was brought in to a place, proves it, and prints what came of it. */
export async function pourBrought(
  given: { brought: Brought; to: string; recipe?: Outlet | null },
  options: Options,
  call: Call
): Promise<number> {
  const { to, recipe } = given
  const rate = text(options, 'rate')
  const asked = rate === undefined ? null : parseRate(rate)
  if (rate !== undefined && !asked)
    throw wrongCall(`--rate takes frames per second as N, N/D or a decimal, not "${rate}"`)
  let { brought } = given
  if (asked)
    brought = {
      ...brought,
      spec: { ...brought.spec, interpretation: { ...brought.spec.interpretation, rate: asked, rateFrom: 'asked' } },
      facts: { ...brought.facts, ...soundAt(brought.facts, asked), rate: asked, rateFrom: 'asked' }
    }
  const timing = text(options, 'timing') ?? 'shown'
  if (timing !== 'shown' && timing !== 'each') throw wrongCall(`--timing takes shown or each, not "${timing}"`)
  if (timing === 'each') {
    const interpretation = { ...brought.spec.interpretation, eachPicture: true }
    const spec = { ...brought.spec, interpretation }
    brought = { ...brought, spec, facts: interpretedFacts(brought.facts, { ...spec, findings: [] }) }
  }
  const size = text(options, 'size')
  const drawn = brought.facts.layersAre === 'sizes'
  if (size !== undefined && !drawn)
    throw impossible(
      `${brought.facts.name} has pixels of its own; --size is for drawings, and --prepare scales pictures`
    )
  const layer = size ?? text(options, 'layer')
  if (layer !== undefined) {
    if (!brought.facts.layers || (drawn && size === undefined))
      throw impossible(`${brought.facts.name} holds one picture a file, no layers`)
    const { alpha: _, ...interpretation } = brought.spec.interpretation
    const spec = { ...brought.spec, common: null, interpretation: { ...interpretation, alpha: null, layer } }
    brought = { spec, facts: await lookingAt(call.host).describe({ ...spec, findings: [] }) }
  }
  const halves = text(options, 'halves')
  if (halves !== undefined) brought = await takenApart(brought, halves, call)
  const codes = text(options, 'codes')
  if (codes !== undefined && codes !== 'keep') throw wrongCall(`--codes takes keep, not "${codes}"`)
  const { tags } = brought.facts
  if (codes === 'keep' && tags) {
    const interpretation = { ...brought.spec.interpretation, codesKept: sayTags(tags) }
    brought = { ...brought, spec: { ...brought.spec, interpretation } }
  }
  const prepare = text(options, 'prepare')
  const prepared =
    prepare === undefined
      ? (source: Brought): Prepared => ({ ...source, spec: wholeSpec(source) })
      : await preparer(prepare, options, call)
  const foreseen = prepared(brought)
  const own = recipe ?? outletFrom(options, foreseen.facts.bitDepth)
  const outlet: Outlet = options.replace === true ? { ...own, existing: 'replace' } : own
  const { problems } = assess({ facts: foreseen.facts, outlet, marks: null })
  if (problems.length) throw impossible(problems.map(withOption).join(' '))
  tellFindings(brought, call)
  const mode = text(options, 'source-alpha')
  const taking = await takingOf(brought, mode ? parseAlpha(mode, 'source-alpha') : null, call)
  return deliver({ taking, under: prepared, marks: null, outlet }, to, call)
}

/** What the receiver of the call demands, and the plan does not meet under the name it gets. */
function demandsOf(
  plan: PourPlan,
  { receiver }: Call,
  { at, bytes }: { at: string; bytes: number | null }
): { open: Unmet[]; waived: Unmet[] } {
  if (!receiver) return { open: [], waived: [] }
  const found = unmet({ ...plan, fileName: path.basename(at) }, receiver.demands, bytes)
  return {
    open: found.filter(({ id }) => !receiver.waived.includes(id)),
    waived: found.filter(({ id }) => receiver.waived.includes(id))
  }
}

/** Throws where the plan does not meet what the receiver demands. */
function refuseUnmet(plan: PourPlan, at: string, call: Call): void {
  const { open } = demandsOf(plan, call, { at, bytes: null })
  if (open.length)
    throw impossible(
      `${open.map(({ sentence }) => sentence).join(' ')} Change the outlet, or waive it by name: --waive ` +
        `${open.map(({ id }) => id).join(',')}`
    )
}

/** Where a plan's delivery goes. */
type Placed = (plan: PourPlan) => string | Promise<string>

/** A source as it is poured, and through what. */
interface Delivery {
  taking: Taking
  /** What is poured of the source as it is taken. */
  under(brought: Brought): Prepared
  marks: Marks | null
  span?: string
  outlet: Outlet
}

/** What a source as it is taken now comes to through its outlet. */
function planned({ taking, under, outlet, marks, span }: Delivery): { plan: PourPlan; spec: SourceSpec } {
  const { spec, facts } = under(taking.brought)
  const { problems, plan: made } = assess({ facts, outlet, marks, ...(span ? { span } : {}) })
  const plan = made()
  if (!plan) throw impossible(problems.join(' '))
  return { plan, spec: withOwnSteps(spec, plan.steps) }
}

/** Pours a source through an outlet to a place and proves it: how it ended, and what is to be said of it. */
export async function delivered(given: Delivery, to: string | Placed, call: Call): Promise<Delivered> {
  const begun = planned(given)
  const asked = await placeAsked(typeof to === 'string' ? to : await to(begun.plan))
  // what all frames say may be another thing than what the pour began on, and is final
  return (await deliveredTo(given, begun, asked, call)) ?? (await deliveredTo(given, planned(given), asked, call))!
}

/** The same to its place; null where the source is to be taken otherwise than it was poured, and nothing was left. */
async function deliveredTo(
  { taking, outlet }: Delivery,
  { plan, spec }: ReturnType<typeof planned>,
  asked: string,
  call: Call
): Promise<Delivered | null> {
  refuseUnmet(plan, asked, call)
  const { target, at, files: placed, waiting } = await targetAt(asked, plan, placesRead(spec))
  let files: readonly FileRef[] = []
  const depot: Depot = {
    open: () => Promise.resolve(target),
    async delivered() {
      files = await deliveredFiles(placed(), waiting)
      return { id: `delivered ${at}`, name: path.basename(at), files }
    }
  }
  const { host, pool, signal } = call
  const delivering = { reference: spec, plan, host, pool, passing: taking.passing(spec), signal }
  let report: ProofReport
  let bytes: number
  let heavy: string[]
  let waived: string[]
  try {
    const noted = await pourInto(depot, delivering, ({ done }) => call.progress('Pouring', done, plan.frames.length))
    const otherwise = await taking.settle()
    if (otherwise) {
      call.remark(otherwise)
      await waiting.drop()
      return null
    }
    const { origin } = taking.brought
    report = await proveDelivered(depot, { ...delivering, origin }, noted, (done, total) =>
      call.progress('Proving', done, total)
    )
    bytes = files.reduce((sum, file) => sum + file.size, 0)
    // how much it comes to is known only now
    const demands = demandsOf(plan, call, { at, bytes })
    heavy = demands.open.map(({ sentence }) => sentence)
    waived = demands.waived.map(({ sentence }) => sentence)
    signal.throwIfAborted()
    if (heavy.length) await waiting.drop()
    else await waiting.settle()
  } catch (error) {
    await waiting.drop()
    throw error
  }
  const data = {
    to: at,
    format: outlet.format,
    frames: plan.deliverable.frames,
    bytes,
    verdict: report.verdict,
    title: report.title,
    sentence: report.sentence,
    ledger: report.ledger,
    ...(waived.length ? { waived } : {})
  }
  return { data, heavy, ends: endOf(report, heavy) }
}

interface Delivered {
  data: { to: string; frames: number; bytes: number } & Pick<
    ProofReport,
    'verdict' | 'title' | 'sentence' | 'ledger'
  > & { format: string; waived?: string[] }
  /** What the receiver demands of its weight, and it does not meet. */
  heavy: string[]
  ends: number
}

function endOf({ verdict }: ProofReport, heavy: readonly string[]): number {
  if (verdict === 'broken') return EXIT.proofBroken
  if (heavy.length) return EXIT.impossible
  return EXIT.done
}

/** The same, printed; `also` is said of it in data. */
export async function deliver(given: Delivery, to: string | Placed, call: Call, also: object = {}): Promise<number> {
  const { data, heavy, ends } = await delivered(given, to, call)
  if (call.json) call.print(JSON.stringify({ ...also, ...data, placed: heavy.length === 0 }, null, 2))
  else if (!heavy.length) {
    call.print(`${data.to}: ${data.frames} frames, ${data.bytes} bytes. ${data.title}. ${data.sentence}`)
    for (const each of sayLedger(data.ledger)) call.print(`  ${each}`)
    for (const each of data.waived ?? []) call.print(`  Waived: ${each}`)
  }
  if (heavy.length) call.remark(`${heavy.join(' ')} ${data.to} is not left there.`)
  return ends
}

/** Files of a delivery that are asked of the disk at once. */
const AT_ONCE = 16

/** What waits for its places after a pour: films, a ZIP, or the files of a folder. */
async function deliveredFiles(places: readonly string[], waiting: Waiting): Promise<FileRef[]> {
  const found: FileRef[] = []
  await inOrder(
    places.length,
    AT_ONCE,
    place => fileAt(waiting.where(places[place]!), path.basename(places[place]!)),
    file => void found.push(file)
  )
  return found
}
