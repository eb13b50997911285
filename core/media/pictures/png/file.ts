/** One PNG file, whole. */
import { concatenate } from '../../../base/files/bytes'
import type { ByteReader } from '../../../base/files/file'
import type { Frame } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import { readChunk } from './chunks'
import { decodePixels } from './decode'
import { readPngInfo, type PngInfo } from './header'

/** True if the animation control chunk stands before the first picture data (PNG third edition, 11.3.6.1). */
export async function isAnimated(reader: ByteReader): Promise<boolean> {
  const info = await readPngInfo(reader)
  const control = info.chunks.findIndex(c => c.type === 'acTL')
  return control >= 0 && control < info.chunks.findIndex(c => c.type === 'IDAT')
}

/** Decodes one whole PNG file. Pass `known`, what stands before its pixels, where that has been read already. */
export async function decodePngFile(host: Host, reader: ByteReader, known?: PngInfo): Promise<Frame> {
  const info = known ?? (await readPngInfo(reader))
  return decodePixels(host, reader.name, info, await joined(host, reader, info))
}

async function joined(host: Host, reader: ByteReader, info: PngInfo): Promise<Uint8Array> {
  const parts: Uint8Array[] = []
  for (const place of info.chunks)
    if (place.type === 'IDAT') parts.push(await readChunk(reader, place, bytes => host.kernels.crc32(bytes)))
  return concatenate(parts)
}
