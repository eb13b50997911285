/** Files as they are stored, opened by the format that reads them. */
import type { ByteReader, FileRef } from '../base/files/file'
import type { Host } from '../frame/host'
import type { Format } from '../media/formats/format'
import { heldFacts } from '../source/held-facts'
import { levelled } from '../source/levelled'
import { AS_FOUND, type FilesSpec, type Source, type SourceFacts } from '../source/source'
import { interpret } from './interpret'
import { paired } from './pair'
import { formatById } from './registry'
import { unstacked } from './unstacked'

/** The same source, its facts held to what can be; it is closed when they are beyond that. */
async function heldSource(source: Source): Promise<Source> {
  let facts: SourceFacts
  try {
    facts = heldFacts(source.facts)
  } catch (error) {
    await source.close()
    throw error
  }
  if (facts === source.facts) return source
  const { encoded, each } = source
  return {
    facts,
    ...(each ? { each: (index: number, signal?: AbortSignal) => each(index, signal) } : {}),
    frame: (index, signal) => source.frame(index, signal),
    ...(encoded ? { encoded: (index: number) => encoded(index) } : {}),
    close: () => source.close()
  }
}

/**
 * What a format makes of files, its facts held to what can be. Whatever it had opened is closed again when it rejects.
 */
export async function opened(
  format: Format,
  how: 'open' | 'openForProof',
  { name, files, layer }: { name: string; files: readonly FileRef[]; layer?: string | undefined },
  host: Host
): Promise<Source> {
  const readers: ByteReader[] = []
  let opening = true
  const watched: Host = {
    ...host,
    async openFile(file) {
      const reader = await host.openFile(file)
      if (opening) readers.push(reader)
      return reader
    }
  }
  try {
    return await heldSource(await format[how](name, files, watched, layer))
  } catch (error) {
    await Promise.all(readers.map(reader => reader.close()))
    throw error
  } finally {
    opening = false
  }
}

/** The files of a description, fill and key together, before any interpretation. */
export async function openStored(spec: FilesSpec, host: Host, how: 'open' | 'openForProof'): Promise<Source> {
  const format = formatById(spec.format)
  const stored = await opened(
    format,
    how,
    { name: spec.name, files: spec.files, layer: spec.interpretation.layer },
    host
  )
  const { stacked } = spec.interpretation
  const whole = format.delivers === 'pictures' ? levelled(stored, spec.common, host.kernels) : stored
  const fill = stacked ? await unstacked(whole, stacked) : whole
  if (!spec.key) return fill
  try {
    return paired(fill, await opened(format, how, { name: spec.name, files: spec.key }, host))
  } catch (error) {
    await fill.close()
    throw error
  }
}

/** Files as they are taken, through the decoder a proof uses. */
export async function openForProof(spec: FilesSpec, host: Host): Promise<Source> {
  return interpret(await openStored(spec, host, 'openForProof'), spec)
}

/** What the bytes say of themselves, whatever they are taken for: opened by the proof's decoder, and closed again. */
export async function storedFacts(spec: FilesSpec, host: Host): Promise<SourceFacts> {
  const source = await openForProof({ ...spec, interpretation: { ...spec.interpretation, alpha: null } }, host)
  await source.close()
  return source.facts
}

/** A description of files whose interpretation is left to them. */
export function specAsFound(id: string, name: string, format: string, files: FilesSpec['files']): FilesSpec {
  return { kind: 'files', id, name, format, files, numbers: null, interpretation: AS_FOUND, findings: [] }
}
