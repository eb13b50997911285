/**
 * The life of a cell once it is asked for: pour, keep, prove. Page and command line call this; where the bytes lie is
 * their own, behind a depot.
 */
import type { FileRef } from '../../base/files/file'
import { listZip } from '../../base/files/zip'
import { formatById } from '../../open/registry'
import type { Target } from '../../media/formats/traits/writing'
import type { Host } from '../../frame/host'
import { isRateNote } from '../intake/rate-hints'
import type { Origin } from '../../judge/ledger/ledger-of'
import type { PourPlan } from '../../job/outlet/plan'
import type { Passing } from '../pour/passing'
import { pour, type Noted, type Progress } from '../pour/pour'
import { expectationOf } from '../../judge/proof/expectation'
import { prove, type Notebook } from '../../judge/proof/prove'
import type { ProofReport } from '../../judge/proof/report'
import { specAsFound } from '../../open/stored'
import type { SourceSpec, FilesSpec } from '../../source/source'
import type { Workshop } from '../../frame/workshop'
import type { DeliveryTasks } from './asks'

/** Where a delivery goes, and is read from again. */
export interface Depot {
  open(plan: PourPlan): Promise<Target>
  /** Called when all bytes lie there whole; what it keeps lets the proof be taken up later. */
  keep?(noted: Noted): Promise<void>
  /** The film, and its key's where there is one; or a ZIP of pictures; or the pictures themselves. */
  delivered(): Promise<{ id: string; name: string; files: readonly FileRef[] }>
}

export interface Delivering extends Workshop<DeliveryTasks> {
  reference: SourceSpec
  plan: PourPlan
  origin?: Origin | undefined
  /** What is looked at of the source's frames while they are poured. */
  passing?: Passing | null
  /** Bytes it was judged to come to, where it was. */
  estimate?: number | null
  /** Outcomes kept from a proof that was cut off. */
  notebook?: Notebook
}

/** The delivered files as a source to read back; a fill and key as the one picture they make. */
export async function deliveredSpec(
  plan: PourPlan,
  { id, name, files }: { id: string; name: string; files: readonly FileRef[] },
  host: Host
): Promise<FilesSpec> {
  const format = formatById(plan.outlet.format)
  const split = async (): Promise<{ files: readonly FileRef[]; key: readonly FileRef[] | null }> => {
    if (format.delivers === 'film') return { files: files.slice(0, 1), key: plan.key ? files.slice(1) : null }
    let all = files
    if (files.length === 1 && /\.zip$/i.test(files[0]!.path)) {
      const reader = await host.openFile(files[0]!)
      try {
        all = (await listZip(files[0]!, reader)).filter(file => !isRateNote(file.path))
      } finally {
        await reader.close()
      }
    }
    const ofKey = new Set(plan.key?.deliverable.names.map(lastOf))
    return {
      files: all.filter(file => !ofKey.has(lastOf(file.path))),
      key: plan.key ? all.filter(file => ofKey.has(lastOf(file.path))) : null
    }
  }
  const parts = await split()
  const spec = specAsFound(id, name, format.id, parts.files)
  const { content, joined } = plan.deliverable
  const stacked = content.kind === 'stacked' && joined ? { stacked: { alpha: content.half, ...joined } } : {}
  return { ...spec, key: parts.key, interpretation: { ...spec.interpretation, alpha: plan.due.alpha, ...stacked } }
}

const lastOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1)

/** Proves what a depot holds. `noted` is what was taken down when it was poured, as far as it is known. */
export async function proveDelivered(
  depot: Depot,
  { reference, plan, host, pool, origin, estimate = null, signal, notebook }: Delivering,
  noted: Partial<Noted>,
  onProgress: (done: number, total: number) => void = () => undefined
): Promise<ProofReport> {
  return prove(
    {
      reference,
      frames: plan.frames,
      expected: expectationOf(plan, estimate),
      delivered: await deliveredSpec(plan, await depot.delivered(), host),
      ...(origin ? { origin } : {}),
      prints: noted.prints ?? null,
      stamps: noted.stamps ?? null,
      readBack: noted.readBack ?? null,
      ...(notebook ? { notebook } : {})
    },
    { host, pool, signal },
    onProgress
  )
}

/** Pours into a depot, and has it keep what came. Nothing is left there of a pour that fails or is stopped. */
export async function pourInto(
  depot: Depot,
  { reference, plan, passing = null, host, pool, signal }: Delivering,
  onProgress: (progress: Progress) => void = () => undefined
): Promise<Noted> {
  const noted = await pour(
    { source: reference, plan, target: await depot.open(plan), passing },
    { host, pool, signal },
    onProgress
  )
  await depot.keep?.(noted)
  return noted
}
