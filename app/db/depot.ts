/** Where deliveries lie in the browser, in parts of its store, and how they go from there into a folder. */
import { nameUnder } from '~~/core/run/delivery/existing'
import { deliveredSpec, type Depot } from '~~/core/run/delivery/delivery'
import type { FileRef } from '~~/core/base/files/file'
import { zipSink, type ByteSink } from '~~/core/base/files/sinks'
import type { Target } from '~~/core/media/formats/traits/writing'
import { formatById } from '~~/core/open/registry'
import type { Host } from '~~/core/frame/host'
import { isCalled, type PourPlan } from '~~/core/job/outlet/plan'
import type { Noted } from '~~/core/run/pour/pour'
import { rateNote } from '~~/core/run/pour/rate-note'
import type { FilesSpec } from '~~/core/source/source'
import { folderHas, partSink, saveAll, saveInto } from '~~/platform/browser/sinks'
import { database, keyPartsOf, resultBlobs, type StoredResult } from './database'
import { noteFolder } from './results'

/** Everything that is poured is kept here, whole, before anything is written to a folder of the user's. */
function makeTarget(plan: PourPlan, resultId: string): Target {
  const format = formatById(plan.outlet.format)
  const keptAs = (id: string): ByteSink =>
    partSink({
      keep: async (index, blob) => void (await database.parts.put({ resultId: id, index, blob })),
      discard: async () => void (await database.parts.where('resultId').equals(id).delete())
    })
  if (format.delivers === 'film')
    return { kind: 'film', sink: keptAs(resultId), ...(plan.key ? { key: keptAs(keyPartsOf(resultId)) } : {}) }
  return { kind: 'pictures', sink: zipSink(keptAs(resultId), new Date(1980, 0, 1)) }
}

/** What a delivery is called in a folder where names are given out by somebody else than its outlet. */
export type Named = (wanted: string) => Promise<string>

interface Saving {
  named?: Named | undefined
  host: Host
  signal?: AbortSignal
}

/** What `wanted` becomes in a folder, under the outlet's policy for names that are there. */
const nameIn = (
  folder: FileSystemDirectoryHandle,
  { plan }: StoredResult,
  { wanted, has }: { wanted: string; has: (name: string) => Promise<boolean> }
): Promise<string> =>
  nameUnder({
    policy: plan.outlet.existing,
    wanted,
    has,
    refusal: `${folder.name}/${wanted} is there already, and this outlet stops rather than replace it.`
  })

/** Of a sequence that was replaced no picture stays that the new one does not have. */
async function removeFormer(
  folder: FileSystemDirectoryHandle,
  name: string,
  { pictures = [] }: PourPlan,
  fresh: ReadonlySet<string>
): Promise<void> {
  const within = await folder.getDirectoryHandle(name)
  const former: string[] = []
  for await (const entry of (within as unknown as { keys(): AsyncIterable<string> }).keys())
    if (!fresh.has(entry) && pictures.some(called => isCalled(entry, called))) former.push(entry)
  for (const entry of former) await within.removeEntry(entry)
}

/** Copies the pictures of a result into a folder of its name. */
async function saveLoose(
  folder: FileSystemDirectoryHandle,
  result: StoredResult,
  { host, signal, named }: Saving
): Promise<void> {
  const { plan } = result
  const has = (name: string): Promise<boolean> =>
    folder.getDirectoryHandle(name).then(
      () => true,
      () => false
    )
  const name = named ? await named(plan.name) : await nameIn(folder, result, { wanted: plan.name, has })
  const { files, key } = await deliveredSpecOf(result, host)
  const loose = [...files, ...(key ?? [])].map(file => ({
    name: file.path,
    async blob() {
      const reader = await host.openFile(file)
      try {
        return new Blob([new Uint8Array(await reader.read(0, reader.size))])
      } finally {
        await reader.close()
      }
    }
  }))
  const note = rateNote(plan)
  if (note) loose.push({ name: note.name, blob: () => Promise.resolve(new Blob([new Uint8Array(note.bytes)])) })
  await saveAll(folder, name, loose, signal)
  if (plan.outlet.existing === 'replace') await removeFormer(folder, name, plan, new Set(loose.map(each => each.name)))
  await noteFolder(result.id, `${folder.name}/${name}`)
}

/** Where a result lies: parts in the browser's store, by its id. */
export function depotOf(
  resultId: string,
  keep: (noted: Noted) => Promise<void>,
  kept: () => StoredResult | null
): Depot {
  return {
    open: plan => Promise.resolve(makeTarget(plan, resultId)),
    keep,
    async delivered() {
      const result = kept()!
      const blobs = await resultBlobs(result)
      const files = blobs.map(({ name, blob }): FileRef => ({ kind: 'blob', path: name, size: blob.size, blob }))
      return { id: result.id, name: result.fileName, files }
    }
  }
}

export const depotOfKept = (result: StoredResult): Depot =>
  depotOf(
    result.id,
    () => Promise.resolve(),
    () => result
  )

/** The delivered bytes as a source to read back; a fill and key as the one picture they make. */
async function deliveredSpecOf(result: StoredResult, host: Host): Promise<FilesSpec> {
  return deliveredSpec(result.plan, await depotOfKept(result).delivered(), host)
}

/** The same with the rate that a sequence of pictures cannot carry, but its sender knows. */
export async function deliveredAsKnown(result: StoredResult, host: Host): Promise<FilesSpec> {
  const spec = await deliveredSpecOf(result, host)
  const { rate } = result.plan.deliverable
  return formatById(spec.format).delivers === 'pictures' && rate
    ? { ...spec, interpretation: { ...spec.interpretation, rate, rateFrom: 'note' } }
    : spec
}

/** Puts a result into a folder as its outlet delivers: a film as a file, pictures loose in a folder of their own. */
export async function deliverInto(
  folder: FileSystemDirectoryHandle,
  result: StoredResult,
  saving: Saving
): Promise<void> {
  if (formatById(result.plan.outlet.format).delivers !== 'film') await saveLoose(folder, result, saving)
  else await saveTo(folder, result, saving.named)
}

/** Saves a result into a folder under the outlet's policy for existing names. Returns the names it got. */
export async function saveTo(folder: FileSystemDirectoryHandle, result: StoredResult, named?: Named): Promise<string> {
  const names: string[] = []
  for (const { name: wanted, blob } of await resultBlobs(result)) {
    const has = (each: string): Promise<boolean> => folderHas(folder, each)
    const name = named ? await named(wanted) : await nameIn(folder, result, { wanted, has })
    await saveInto(folder, name, blob)
    names.push(name)
  }
  await noteFolder(result.id, `${folder.name}/${names[0]}`)
  return names.join(' and ')
}
