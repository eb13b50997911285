/** A pour's target in memory, and what it holds afterwards as files to read back. */
import type { FileRef } from '../../core/base/files/file'
import { memorySink } from '../../core/base/files/sinks'
import type { Format } from '../../core/media/formats/format'
import type { Target } from '../../core/media/formats/traits/writing'
import { isRateNote } from '../../core/run/intake/rate-hints'
import { bytesFile } from './support'

export function memoryFiles(format: Format, fileName: string): { target: Target; files(): FileRef[] } {
  if (format.delivers === 'film') {
    const sink = memorySink()
    return { target: { kind: 'film', sink }, files: () => [bytesFile(fileName, sink.bytes())] }
  }
  const made: FileRef[] = []
  return {
    target: {
      kind: 'pictures',
      sink: {
        add: (name, bytes) => {
          // the note beside pictures is none of them
          if (!isRateNote(name)) made.push(bytesFile(name, bytes))
          return Promise.resolve()
        },
        close: () => Promise.resolve(),
        abort: () => Promise.resolve()
      }
    },
    files: () => made
  }
}
