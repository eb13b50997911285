/** A hand-over that came back, or arrived: has anything changed? */
import { isAbort, sentenceOf, unreadable } from '../../base/errors'
import { baseName, type FileRef } from '../../base/files/file'
import type { Host } from '../../frame/host'
import { sayNumbers } from '../../base/natural'
import { sayFault } from '../../base/say-issue'
import { rateFraction, sameRate } from '../../base/rate'
import { openForProof, specAsFound } from '../../open/stored'
import type { FilesSpec } from '../../source/source'
import { inOrder } from '../../base/pool'
import type { Workshop } from '../../frame/workshop'
import type { ProofTasks } from '../../judge/proof/tasks'
import { Manifest, MANIFEST_NAME, MANIFEST_VERSION, readChecksums, SUMS_NAME, type Delivery } from './manifest'
import { isSigned, printOf, readAs, Seal, SEAL_NAME, type PublicKey } from './seal'

/**
 * How a delivery or the whole stands: every byte as handed over; other bytes, same pictures; something lies there that
 * was not handed over; other pictures, papers or sums; files missing.
 */
export type Condition = 'untouched' | 'same-pictures' | 'surplus' | 'changed' | 'missing'

export interface CheckedDelivery {
  name: string
  condition: Condition
  sentence: string
  /** Frames that differ, counted from 1. */
  frames: number[]
}

export interface HandOverCheck {
  job: string
  made: string
  /** The worst of all deliveries, papers, sums, the signature, and what lies there beside. */
  condition: Condition
  sentence: string
  deliveries: CheckedDelivery[]
  /** What is amiss beside the deliveries, in sentences. */
  findings: string[]
  /** Files that nothing names. */
  strangers: string[]
  /** Whose signature it bears, and whether it is of these sums; null where it bears none. */
  signed: { by: string; key: string; holds: boolean } | null
}

/** What systems leave lying about in folders and archives. */
const QUIET = /(^|\/)(\.DS_Store|\._[^/]*|Thumbs\.db|desktop\.ini)$|^__MACOSX\//i

const MOST_MANIFEST = 64 * 2 ** 20

/**
 * Finds and reads the manifest among files; `root` is the folder it lies in, to which its paths are relative. Rejects
 * with a clear error.
 */
export async function readManifest(
  files: readonly FileRef[],
  host: Host
): Promise<{ manifest: Manifest; root: string; old: boolean }> {
  const file = files.find(f => baseName(f.path) === MANIFEST_NAME)
  if (!file)
    throw unreadable(
      files[0]?.path ?? 'the folder',
      null,
      `there is no ${MANIFEST_NAME}, so nothing says what was handed over`
    )
  if (file.size > MOST_MANIFEST)
    throw unreadable(file.path, null, `it is larger than ${MOST_MANIFEST / 2 ** 20} MiB, too large for a manifest`)
  const reader = await host.openFile(file)
  const text = new TextDecoder().decode(await reader.read(0, file.size))
  await reader.close()
  let data: unknown
  try {
    data = JSON.parse(text)
  } catch (error) {
    throw unreadable(file.path, null, `it is not JSON (${sentenceOf(error)})`)
  }
  // before there were sums of papers
  const old = !!data && typeof data === 'object' && 'version' in data && data.version === 2
  if (old) data = { ...(data as object), version: MANIFEST_VERSION, papers: [] }
  if (data && typeof data === 'object' && 'version' in data && data.version !== MANIFEST_VERSION)
    throw unreadable(
      file.path,
      'version',
      `it is of version ${String(data.version)}; Pour reads version ${MANIFEST_VERSION}`
    )
  const parsed = Manifest.safeParse(data)
  if (!parsed.success)
    throw unreadable(
      file.path,
      parsed.error.issues[0]?.path.join('.') || null,
      `it is not a manifest of a hand-over: ${sayFault(parsed.error.issues[0]!)}`
    )
  return { manifest: parsed.data, root: file.path.slice(0, file.path.length - MANIFEST_NAME.length), old }
}

/** The delivery as a source to read back. `sums` are the files' own: workers take equal ids for equal bytes. */
function deliverySpec(delivery: Delivery, files: readonly FileRef[], sums: readonly string[]): FilesSpec {
  const fill = delivery.fillFiles ?? files.length
  const spec = specAsFound(`handed over ${sums.join()}`, delivery.name, delivery.format, files.slice(0, fill))
  return {
    ...spec,
    key: delivery.fillFiles === null ? null : files.slice(fill),
    interpretation: {
      ...spec.interpretation,
      alpha: delivery.alpha,
      ...(delivery.stacked ? { stacked: delivery.stacked } : {})
    }
  }
}

async function checkOne(
  delivery: Delivery,
  { at, sumOf }: Pick<Received, 'at' | 'sumOf'>,
  { host, pool, signal, onFrame }: Workshop<ProofTasks> & { onFrame: () => void }
): Promise<CheckedDelivery> {
  const { name } = delivery
  const outcome = (condition: Condition, sentence: string, frames: number[] = []): CheckedDelivery => ({
    name,
    condition,
    sentence,
    frames
  })
  const absent = delivery.files.filter(f => !at(f.path))
  if (absent.length)
    return outcome(
      'missing',
      `${absent.length === 1 ? absent[0]!.path : `${absent.length} of ${delivery.files.length} files`} ` +
        `${absent.length === 1 ? 'is' : 'are'} missing${absent.length > 1 ? `, ${absent[0]!.path} first` : ''}.`
    )
  const other: string[] = []
  const sums: string[] = []
  for (const file of delivery.files) {
    const sum = await sumOf(file.path)
    sums.push(sum)
    if (sum !== file.sha256) other.push(file.path)
  }
  const all = delivery.files.length === 1 ? 'the file' : `all ${delivery.files.length} files`
  const what =
    other.length === 0
      ? `The sums of ${all} are those of the manifest, and still`
      : other.length === 1
        ? `${other[0]} has other bytes`
        : `${other.length} files have other bytes`
  try {
    const spec = deliverySpec(
      delivery,
      delivery.files.map(f => at(f.path)!),
      sums
    )
    const source = await openForProof(spec, host)
    const { facts } = source
    await source.close()
    const differs = [
      facts.frames !== delivery.frames && `${facts.frames} frames instead of ${delivery.frames}`,
      (facts.width !== delivery.width || facts.height !== delivery.height) &&
        `${facts.width}×${facts.height} instead of ${delivery.width}×${delivery.height}`,
      delivery.rate &&
        facts.rate &&
        !sameRate(facts.rate, delivery.rate) &&
        `${rateFraction(facts.rate)} frames per second instead of ${rateFraction(delivery.rate)}`,
      facts.claim.says !== delivery.says && `alpha now “${facts.claim.says}”, handed over as “${delivery.says}”`,
      facts.colour !== delivery.colour &&
        `colour tags now ${facts.colour ?? 'none'}, handed over as ${delivery.colour ?? 'none'}`
    ].filter(part => typeof part === 'string')
    const frames: number[] = []
    const count = Math.min(facts.frames, delivery.fingerprints.length)
    await inOrder(
      count,
      pool.size * 2,
      i => pool.run('fingerprint', [spec, i], { signal }),
      (print, i) => {
        if (print !== delivery.fingerprints[i]) frames.push(i + 1)
        onFrame()
      }
    )
    if (frames.length)
      differs.push(
        `${frames.length === 1 ? 'frame' : 'frames'} ${sayNumbers(frames)} of ${delivery.frames} ` +
          `${frames.length === 1 ? 'differs' : 'differ'}`
      )
    if (differs.length === 0 && other.length === 0)
      return outcome('untouched', `Every byte of ${all} is as it was handed over.`)
    if (differs.length === 0)
      return outcome(
        'same-pictures',
        `${what}, but every frame, the rate and the alpha are the same: it was wrapped anew.`
      )
    // bytes that agree and pictures that do not: the manifest was made to fit
    if (other.length === 0)
      return outcome('changed', `${what} ${differs.join('; ')}: one of the two was changed afterwards.`, frames)
    return outcome('changed', `${what}: ${differs.join('; ')}.`, frames)
  } catch (error) {
    if (isAbort(error)) throw error
    return outcome('changed', `${what}, and cannot be read any more: ${sentenceOf(error)}`)
  }
}

const RANK: readonly Condition[] = ['untouched', 'same-pictures', 'surplus', 'changed', 'missing']
const SAID: Record<Condition, string> = {
  untouched: 'Nothing has changed.',
  'same-pictures': 'Bytes have changed, pictures have not.',
  surplus: 'Something lies in it that was not handed over.',
  changed: 'Something has changed.',
  missing: 'The hand-over is not whole.'
}

/** A hand-over as it arrived: its files by their places in it, and their sums, each computed once. */
interface Received {
  at(path: string): FileRef | undefined
  sumOf(path: string): Promise<string>
}

interface Amiss {
  condition: Condition
  sentence: string
}

async function bytesAt(file: FileRef, host: Host): Promise<Uint8Array<ArrayBuffer>> {
  if (file.size > MOST_MANIFEST) throw unreadable(file.path, null, `it is larger than ${MOST_MANIFEST / 2 ** 20} MiB`)
  const reader = await host.openFile(file)
  try {
    return new Uint8Array(await reader.read(0, file.size))
  } finally {
    await reader.close()
  }
}

/** What is amiss with papers and sums: list, manifest and files must all say the same. */
async function sumsAmiss(manifest: Manifest, received: Received, list: Uint8Array | null): Promise<Amiss[]> {
  const amiss: Amiss[] = []
  const note = (condition: Condition, sentence: string): void => void amiss.push({ condition, sentence })
  for (const { path, sha256 } of manifest.papers)
    if (!received.at(path)) note('missing', `${path} is missing.`)
    else if ((await received.sumOf(path)) !== sha256) note('changed', `${path} is not as it was handed over.`)
  if (!list) {
    note('missing', `${SUMS_NAME} is missing.`)
    return amiss
  }
  const sums = readChecksums(new TextDecoder().decode(list))
  if (!sums) {
    note('changed', `${SUMS_NAME} is no list of sums any more.`)
    return amiss
  }
  const own = await received.sumOf(MANIFEST_NAME)
  const named = [...manifest.deliveries.flatMap(({ files }) => files), ...manifest.papers]
  for (const { path, sha256 } of [...named, { path: MANIFEST_NAME, sha256: own }]) {
    const listed = sums.get(path)
    sums.delete(path)
    if (listed === undefined) note('changed', `${SUMS_NAME} has no sum of ${path}.`)
    else if (listed !== sha256)
      note(
        'changed',
        path === MANIFEST_NAME
          ? `${MANIFEST_NAME} is not as it was handed over: ${SUMS_NAME} has another sum of it.`
          : `${SUMS_NAME} and ${MANIFEST_NAME} do not agree on ${path}.`
      )
  }
  for (const path of sums.keys()) note('changed', `${SUMS_NAME} names ${path}, which ${MANIFEST_NAME} does not.`)
  return amiss
}

/** The signature that lies in a hand-over, and what is amiss with it where one by `wanted` is asked for. */
async function sealOf(
  received: Received,
  list: Uint8Array<ArrayBuffer> | null,
  { host, wanted }: { host: Host; wanted: PublicKey | null }
): Promise<{ signed: HandOverCheck['signed']; amiss: Amiss[] }> {
  const amiss: Amiss[] = []
  const note = (sentence: string): void => void amiss.push({ condition: 'changed', sentence })
  const file = received.at(SEAL_NAME)
  if (!file) {
    if (wanted) note(`It is not signed, though “${wanted.name}” was to have signed it.`)
    return { signed: null, amiss }
  }
  let seal: Seal
  try {
    seal = readAs(Seal, new TextDecoder().decode(await bytesAt(file, host)), { file: file.path, what: 'a signature' })
  } catch (error) {
    note(sentenceOf(error))
    return { signed: null, amiss }
  }
  const holds = !!list && (await isSigned(list, seal))
  if (!holds) note(`The signature by “${seal.by}” is not of these sums.`)
  if (wanted && wanted.public !== seal.public)
    note(`It is signed by another key than that of “${wanted.name}”: ${printOf(seal.public)}.`)
  return { signed: { by: seal.by, key: printOf(seal.public), holds }, amiss }
}

/**
 * Checks every delivery of the manifest among `files`, a folder or an unpacked archive: bytes, frames, papers, sums,
 * and the signature, where it bears one; with `by` it must bear one by that key.
 */
export async function checkHandOver(
  files: readonly FileRef[],
  workshop: Workshop<ProofTasks>,
  {
    by = null,
    onProgress = () => undefined
  }: { by?: PublicKey | null; onProgress?: (done: number, total: number) => void } = {}
): Promise<HandOverCheck> {
  const { host, pool, signal } = workshop
  const { manifest, root, old } = await readManifest(files, host)
  const byPath = new Map<string, FileRef>()
  const strangers: string[] = []
  for (const file of files)
    if (!byPath.has(file.path)) byPath.set(file.path, file)
    else strangers.push(`${file.path}, a second time`)
  const known = new Map<string, Promise<string>>()
  const received: Received = {
    at: path => byPath.get(root + path),
    sumOf(path) {
      const sum = known.get(path) ?? pool.run('digest', [[byPath.get(root + path)!]], { signal })
      known.set(path, sum)
      return sum
    }
  }
  const total = manifest.deliveries.reduce((sum, d) => sum + d.frames, 0)
  let done = 0
  const deliveries: CheckedDelivery[] = []
  for (const delivery of manifest.deliveries) {
    const before = done
    deliveries.push(await checkOne(delivery, received, { ...workshop, onFrame: () => onProgress(++done, total) }))
    done = before + delivery.frames
    onProgress(done, total)
  }
  const sumsFile = received.at(SUMS_NAME)
  const list = sumsFile ? await bytesAt(sumsFile, host) : null
  const { signed, amiss } = await sealOf(received, list, { host, wanted: by })
  if (!old) amiss.push(...(await sumsAmiss(manifest, received, list)))
  const own = [MANIFEST_NAME, SUMS_NAME, SEAL_NAME, ...(old ? OLD_PAPERS : [])]
  const named = new Set([
    ...manifest.deliveries.flatMap(({ files: each }) => each.map(file => root + file.path)),
    ...[...manifest.papers.map(({ path }) => path), ...own].map(path => root + path)
  ])
  strangers.push(...[...byPath.keys()].filter(path => !named.has(path) && !QUIET.test(path)))
  const conditions = [
    ...deliveries.map(each => each.condition),
    ...amiss.map(each => each.condition),
    ...(strangers.length ? (['surplus'] as const) : [])
  ]
  const condition = conditions.reduce<Condition>(
    (worst, each) => (RANK.indexOf(each) > RANK.indexOf(worst) ? each : worst),
    'untouched'
  )
  return {
    job: manifest.job,
    made: manifest.made,
    condition,
    sentence: sayChecked(condition, signed, old),
    deliveries,
    findings: amiss.map(({ sentence }) => sentence),
    strangers,
    signed
  }
}

/** Papers that hand-overs of before had, without sums. */
const OLD_PAPERS = ['note.txt', 'note.html', 'proof.html', 'proof.pdf']

function sayChecked(condition: Condition, signed: HandOverCheck['signed'], old: boolean): string {
  const whole = condition === 'untouched'
  const seal = signed?.holds ? ` ${whole ? 'Signed' : 'Its sums are signed'} by “${signed.by}”, key ${signed.key}.` : ''
  if (whole && old)
    return (
      'No delivery has changed. Its papers have no sums, as an earlier version made them, and were not ' +
      `checked.${seal}`
    )
  return SAID[condition] + seal
}
