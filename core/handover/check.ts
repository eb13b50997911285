/** A hand-over that came back, or arrived: has anything changed? */
import { isAbort, sentenceOf, unreadable } from '../errors'
import { baseName, type FileRef } from '../files/file'
import type { Host } from '../host'
import { sayNumbers } from '../intake/natural'
import { sayFault } from '../say-issue'
import { rateFraction, sameRate } from '../rate'
import { openForProof, specAsFound } from '../source/open'
import type { FilesSpec } from '../source/source'
import { inOrder } from '../work/pool'
import type { Workshop } from '../work/workshop'
import { Manifest, MANIFEST_NAME, MANIFEST_VERSION, type Delivery } from './manifest'

/**
 * How a delivery stands: every byte as handed over; other bytes, same pictures; other pictures; files missing or
 * unreadable.
 */
export type Condition = 'untouched' | 'same-pictures' | 'changed' | 'missing'

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
  /** The worst of all deliveries. */
  condition: Condition
  sentence: string
  deliveries: CheckedDelivery[]
  /** Files that the manifest does not name. */
  strangers: string[]
}

/** Files that belong to every hand-over and are no deliveries. */
const OWN = /(^|\/)(hand-over\.json|checksums\.sha256|note\.(txt|html)|proof\.(html|pdf))$/

const MOST_MANIFEST = 64 * 2 ** 20

/**
 * Finds and reads the manifest among files; `root` is the folder it lies in, to which its paths are relative. Rejects
 * with a clear error.
 */
export async function readManifest(
  files: readonly FileRef[],
  host: Host
): Promise<{ manifest: Manifest; root: string }> {
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
  return { manifest: parsed.data, root: file.path.slice(0, file.path.length - MANIFEST_NAME.length) }
}

/** The delivery as a source to read back. `sums` are the files' own: workers take equal ids for equal bytes. */
function deliverySpec(delivery: Delivery, files: readonly FileRef[], sums: readonly string[]): FilesSpec {
  const fill = delivery.fillFiles ?? files.length
  const spec = specAsFound(`handed over ${sums.join()}`, delivery.name, delivery.format, files.slice(0, fill))
  return {
    ...spec,
    key: delivery.fillFiles === null ? null : files.slice(fill),
    interpretation: { ...spec.interpretation, alpha: delivery.alpha }
  }
}

async function checkOne(
  delivery: Delivery,
  at: (path: string) => FileRef | undefined,
  { host, pool, signal, onFrame }: Workshop & { onFrame: () => void }
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
      `${absent.length === 1 ? absent[0]!.path : `${absent.length} of ${delivery.files.length} files`} ${absent.length === 1 ? 'is' : 'are'} missing${absent.length > 1 ? `, ${absent[0]!.path} first` : ''}.`
    )
  const other: string[] = []
  const sums: string[] = []
  for (const file of delivery.files) {
    const found = at(file.path)!
    const sum = await pool.run('digest', [[found]], { signal })
    sums.push(sum)
    if (sum !== file.sha256) other.push(file.path)
  }
  if (other.length === 0)
    return outcome(
      'untouched',
      `Every byte of ${delivery.files.length === 1 ? 'the file' : `all ${delivery.files.length} files`} is as it was handed over.`
    )
  const what = other.length === 1 ? `${other[0]} has other bytes` : `${other.length} files have other bytes`
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
        `${frames.length === 1 ? 'frame' : 'frames'} ${sayNumbers(frames)} of ${delivery.frames} ${frames.length === 1 ? 'differs' : 'differ'}`
      )
    if (differs.length === 0)
      return outcome(
        'same-pictures',
        `${what}, but every frame, the rate and the alpha are the same: it was wrapped anew.`
      )
    return outcome('changed', `${what}: ${differs.join('; ')}.`, frames)
  } catch (error) {
    if (isAbort(error)) throw error
    return outcome('changed', `${what}, and cannot be read any more: ${sentenceOf(error)}`)
  }
}

const RANK: readonly Condition[] = ['untouched', 'same-pictures', 'changed', 'missing']
const SAID: Record<Condition, string> = {
  untouched: 'Nothing has changed.',
  'same-pictures': 'Bytes have changed, pictures have not.',
  changed: 'Something has changed.',
  missing: 'The hand-over is not whole.'
}

/** Checks every delivery of the manifest among `files`, a folder or an unpacked archive. */
export async function checkHandOver(
  files: readonly FileRef[],
  workshop: Workshop,
  onProgress: (done: number, total: number) => void = () => undefined
): Promise<HandOverCheck> {
  const { manifest, root } = await readManifest(files, workshop.host)
  const byPath = new Map(files.map(file => [file.path, file]))
  const total = manifest.deliveries.reduce((sum, d) => sum + d.frames, 0)
  let done = 0
  const deliveries: CheckedDelivery[] = []
  for (const delivery of manifest.deliveries) {
    const before = done
    deliveries.push(
      await checkOne(delivery, path => byPath.get(root + path), {
        ...workshop,
        onFrame: () => onProgress(++done, total)
      })
    )
    done = before + delivery.frames
    onProgress(done, total)
  }
  const named = new Set(manifest.deliveries.flatMap(d => d.files.map(f => root + f.path)))
  const condition = deliveries.reduce<Condition>(
    (worst, d) => (RANK.indexOf(d.condition) > RANK.indexOf(worst) ? d.condition : worst),
    'untouched'
  )
  return {
    job: manifest.job,
    made: manifest.made,
    condition,
    sentence: SAID[condition],
    deliveries,
    strangers: files.map(f => f.path).filter(path => !named.has(path) && !OWN.test(path))
  }
}
