/** Everything the format table offers, poured as page and command line pour it. */
import { deliveredSpec } from '../../core/run/delivery/delivery'
import type { FileRef } from '../../core/base/files/file'
import { memorySink, type FilesSink } from '../../core/base/files/sinks'
import type { Listed } from '../../core/open/rows'
import { formatById } from '../../core/open/registry'
import type { Frame } from '../../core/frame/frame'
import { newOutlet, outletProblems, type Outlet } from '../../core/job/outlet/outlet'
import { planPour, pourProblems, type PourPlan } from '../../core/job/outlet/plan'
import { pour } from '../../core/run/pour/pour'
import { expectationOf } from '../../core/judge/proof/expectation'
import { prove } from '../../core/judge/proof/prove'
import type { ProofReport } from '../../core/judge/proof/report'
import type { Rate } from '../../core/base/rate'
import type { Field } from '../../core/base/settings/field'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import type { SourceSpec } from '../../core/source/source'
import { inlinePool } from '../../platform/node/pool'
import { bytesFile, testHost, writeFilm } from '../unit/support'

export const host = await testHost()
const pool = inlinePool(host)

let clips = 0

/** A clip as a source: 16-bit animated PNG, which sharp and others read. */
export async function sourceOf(frames: readonly Frame[], rate: Rate = [25, 1], name = 'a clip'): Promise<SourceSpec> {
  return specAsFound(`clip-${clips++}`, name, 'apng', [
    bytesFile(`${name}.png`, await writeFilm('apng', frames, { rate }))
  ])
}

export interface Poured {
  outlet: Outlet
  plan: PourPlan
  /** The film, or the pictures in order. */
  files: { name: string; bytes: Uint8Array }[]
  key: { name: string; bytes: Uint8Array }[]
  report: ProofReport
  /** The frames that were due. */
  source: SourceSpec
}

/** Pours a source through an outlet, in memory, and proves it. */
export async function poured(source: SourceSpec, outlet: Outlet): Promise<Poured> {
  const opened = await openSource(source, host)
  const { facts } = opened
  await opened.close()
  const problems = [...outletProblems(outlet), ...pourProblems(facts, outlet, null)]
  if (problems.length) throw new Error(problems.join(' '))
  const plan = planPour(facts, outlet, null)
  const format = formatById(outlet.format)
  const files: { name: string; bytes: Uint8Array }[] = []
  const key: { name: string; bytes: Uint8Array }[] = []
  if (format.delivers === 'film') {
    const [sink, keySink] = [memorySink(), memorySink()]
    const target = { kind: 'film' as const, sink, ...(plan.key ? { key: keySink } : {}) }
    await pour({ source, plan, target }, { host, pool })
    files.push({ name: plan.fileName, bytes: sink.bytes() })
    if (plan.key) key.push({ name: plan.key.fileName, bytes: keySink.bytes() })
  } else {
    const sink: FilesSink = {
      add: (name, bytes) => Promise.resolve(void files.push({ name, bytes: bytes.slice() })),
      close: () => Promise.resolve(),
      abort: () => Promise.resolve()
    }
    await pour({ source, plan, target: { kind: 'pictures', sink } }, { host, pool })
  }
  const refs: FileRef[] = [...files, ...key]
    .filter(({ name }) => !name.endsWith('.txt'))
    .map(({ name, bytes }) => bytesFile(name, bytes))
  const delivered = await deliveredSpec(plan, { id: `delivered-${clips++}`, name: plan.name, files: refs }, host)
  const report = await prove(
    { reference: source, frames: plan.frames, expected: expectationOf(plan, null), delivered },
    { host, pool }
  )
  return { outlet, plan, files, key, report, source }
}

/** Values of a setting that a matrix tries: all choices, both ends of numbers. */
function tried(field: Field): (string | number | boolean)[] {
  switch (field.type) {
    case 'choice':
      return field.choices.map(({ value }) => value)
    case 'switch':
      return [true, false]
    case 'number':
      return field.aims ? [0] : [field.min, Math.round((field.min + Math.min(field.max, 100)) / 2)]
    case 'text':
      return [field.example]
    default:
      return []
  }
}

/** Outlets of a format: each depth, mode and matte that it offers, and each setting changed by itself. */
export function outletsOf(format: Listed): { told: string; outlet: Outlet }[] {
  const base = newOutlet('o', format)
  const modes = [
    ...(format.alpha.straight.can ? [{ mode: 'straight' as const }] : []),
    ...(format.alpha.premultiplied.can
      ? [format.alpha.premultiplied.matte ?? '#000000', ...(format.alpha.premultiplied.matte ? [] : ['#ffffff'])].map(
          matte => ({ mode: 'premultiplied' as const, matte })
        )
      : []),
    ...(format.alpha.none.can ? [{ mode: 'none' as const }] : [])
  ]
  const shapes = format.depths.flatMap(({ depth }) =>
    modes.map(alpha => ({
      told: `${depth} bits, ${alpha.mode}${alpha.mode === 'premultiplied' ? ` on ${alpha.matte}` : ''}`,
      outlet: { ...base, depth, alpha, ...(alpha.mode === 'none' ? { parts: 'colour-alpha' } : {}) } as Outlet
    }))
  )
  // the largest pages are for the shallower depth, and a folder is for both parts in one
  const folder = format.delivers === 'folder'
  const settled = folder ? { ...base, depth: format.depths[0]!.depth } : base
  const settings = Object.entries(format.options).flatMap(([key, field]) =>
    tried(field)
      .filter(value => value !== base.options[key])
      .map(value => ({
        told: `${key} ${String(value)}`,
        outlet: { ...settled, options: { ...base.options, [key]: value } } as Outlet
      }))
  )
  const split = format.alpha.none.can
    ? (['fill-key', 'alpha-only', 'colour-only'] as const)
        .filter(parts => !folder || parts !== 'fill-key')
        .map(parts => ({ told: parts, outlet: { ...base, parts } as Outlet }))
    : []
  return [...shapes, ...settings, ...split]
}
