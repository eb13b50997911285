/** The container library over a reader of ours. */
import { CustomSource, Input, type InputFormat } from 'mediabunny'
import type { ByteReader } from '../../../base/files/file'

/** Whoever makes it disposes of it. */
export function inputOver(reader: ByteReader, formats: InputFormat[]): Input {
  return new Input({
    source: new CustomSource({ getSize: () => reader.size, read: (start, end) => reader.read(start, end - start) }),
    formats
  })
}
