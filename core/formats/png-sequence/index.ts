/** Numbered PNG files, one a frame. */
import { unreadable } from '../../errors'
import { concatenate } from '../../files/bytes'
import { memoryReader, readAll, type ByteReader, type FileRef } from '../../files/file'
import type { Frame } from '../../frame/frame'
import type { Host } from '../../host'
import type { Source, SourceFacts } from '../../source/source'
import type { Format } from '../format'
import { looksLikePng, readChunk } from '../png/chunks'
import { decodePixels } from '../png/decode'
import { encodePng } from '../png/encode'
import { hasAlpha, readPngInfo, type PngInfo } from '../png/header'
import { decodeIndependently } from '../png/independent'

/** True if the animation control chunk stands before the first picture data (PNG third edition, 11.3.6.1). */
export async function isAnimated(reader: ByteReader): Promise<boolean> {
  const info = await readPngInfo(reader)
  const control = info.chunks.findIndex(c => c.type === 'acTL')
  return control >= 0 && control < info.chunks.findIndex(c => c.type === 'IDAT')
}

/** Decodes one whole PNG file. */
export async function decodePngFile(host: Host, reader: ByteReader): Promise<Frame> {
  const info = await readPngInfo(reader)
  return decodePixels(host, reader.name, info, await joined(reader, info), info.header.width, info.header.height)
}

async function joined(reader: ByteReader, info: PngInfo): Promise<Uint8Array> {
  const parts: Uint8Array[] = []
  for (const place of info.chunks) if (place.type === 'IDAT') parts.push(await readChunk(reader, place))
  return concatenate(parts)
}

function factsOf(name: string, info: PngInfo, files: readonly FileRef[]): SourceFacts {
  const alpha = hasAlpha(info)
  return {
    name,
    format: 'png-sequence',
    kind: files.length === 1 ? 'PNG picture' : 'PNG sequence',
    width: info.header.width,
    height: info.header.height,
    frames: files.length,
    rate: null,
    rateFrom: 'unknown',
    bitDepth: info.header.bitDepth === 16 ? 16 : 8,
    claim: alpha
      ? { mode: 'straight', matte: null, says: 'PNG is straight by its standard' }
      : { mode: 'none', matte: null, says: `colour type ${info.header.colourType} without transparency` },
    colour: info.colour,
    pixelAspect: [1, 1],
    plays: null,
    bytes: files.reduce((sum, file) => sum + file.size, 0),
    findings: []
  }
}

async function openWith(decode: (host: Host, bytes: Uint8Array, name: string) => Promise<Frame>, name: string, files: readonly FileRef[], host: Host): Promise<Source> {
  const first = await host.openFile(files[0]!)
  const facts = factsOf(name, await readPngInfo(first), files)
  await first.close()
  return {
    facts,
    async frame(index) {
      const file = files[index]
      if (!file) throw unreadable(name, `frame ${index + 1}`, `the sequence has ${files.length} frames`)
      const reader = await host.openFile(file)
      try {
        const frame = await decode(host, await readAll(reader), reader.name)
        if (frame.width !== facts.width || frame.height !== facts.height) {
          throw unreadable(reader.name, null, `the picture is ${frame.width}x${frame.height}; the sequence is ${facts.width}x${facts.height}`)
        }
        return frame
      } finally {
        await reader.close()
      }
    },
    close: () => Promise.resolve()
  }
}

export const pngSequence: Format = {
  id: 'png-sequence',
  name: 'PNG sequence',
  tag: 'PNG sequence',
  extension: 'png',
  mime: 'application/zip',
  delivers: 'pictures',
  carries: 'colour and alpha in every picture',
  lossless: true,
  exactAlpha: true,
  depths: [
    { depth: 8, colourBits: 8, alphaBits: 8 },
    { depth: 16, colourBits: 16, alphaBits: 16 }
  ],
  alpha: {
    straight: { can: true, declares: 'PNG is straight by its standard; nothing else need be said' },
    premultiplied: { can: false, because: 'PNG is defined as straight, and no program expects anything else of it. For premultiplied frames choose a format that can say so.' },
    none: { can: true, declares: 'colour type 2, without an alpha channel' }
  },
  declaredMattes: [],
  limits: { width: 2 ** 31 - 1, height: 2 ** 31 - 1, rate: 'carries no rate; the name and the note do' },
  options: [],
  runs: { browser: true, node: true },
  proofReader: { name: 'fast-png', independent: true },
  refusesRate: () => null,

  async recognise(head, reader) {
    return looksLikePng(head) && !(await isAnimated(reader)) ? 'picture' : null
  },
  async measure(reader) {
    const { header } = await readPngInfo(reader)
    return { width: header.width, height: header.height }
  },
  open: (name, files, host) => openWith((h, bytes, file) => decodePngFile(h, memoryReader(file, bytes)), name, files, host),
  openForProof: (name, files, host) => openWith((_, bytes, file) => decodeIndependently(bytes, file), name, files, host),

  encode: (host, frame) => Promise.resolve(encodePng(host, frame)),
  assemble(target, deliverable) {
    if (target.kind !== 'pictures') throw new TypeError('a sequence is delivered as pictures')
    return Promise.resolve({
      add: (index, encoded) => target.sink.add(deliverable.names[index]!, encoded),
      finish: () => Promise.resolve()
    })
  },
  // 30 bytes of local header, 46 of directory, 16 of data descriptor for each file, and its name twice
  wrappedSize: (encoded, deliverable) => encoded + 22 + deliverable.names.reduce((sum, name) => sum + 92 + 2 * name.length, 0)
}
