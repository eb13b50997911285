/** Facts of a picture from its first bytes, so that measuring a sequence does not read all of it. */
import { PourError } from '../../../base/errors'
import { readAll, type ByteReader } from '../../../base/files/file'

/** Headers are shorter than this, nearly always. */
const HEAD = 1 << 16

function attempted<T>(parse: () => T): T | PourError {
  try {
    return parse()
  } catch (error) {
    if (error instanceof PourError) return error
    throw error
  }
}

/**
 * What `parse` makes of a file's first bytes; of the whole where those do not suffice, and it is the whole that errors
 * are about. With
 * `tail`, for formats that describe themselves at their end, the last bytes are given as well, and zeros for what lies
 * between.
 */
export async function fromHead<T extends object>(
  reader: ByteReader,
  parse: (bytes: Uint8Array) => T,
  { tail = false } = {}
): Promise<T> {
  if (reader.size > 4 * HEAD) {
    const head = await reader.read(0, HEAD)
    let bytes = head
    if (tail) {
      bytes = new Uint8Array(reader.size)
      bytes.set(head)
      bytes.set(await reader.read(reader.size - HEAD, HEAD), reader.size - HEAD)
    }
    const found = attempted(() => parse(bytes))
    if (!(found instanceof PourError)) return found
  }
  return parse(await readAll(reader))
}
