/** Checksums of files. */
import type { Host } from '../frame/host'
import type { FileRef } from '../base/files/file'

const PIECE = 1 << 22

/** SHA-256 over the files one after another, read in pieces. */
export async function digestOf(files: readonly FileRef[], host: Host, signal?: AbortSignal): Promise<string> {
  const hash = host.sha256(files.reduce((sum, file) => sum + file.size, 0))
  for (const file of files) {
    const reader = await host.openFile(file)
    for (let at = 0; at < reader.size; at += PIECE) {
      signal?.throwIfAborted()
      hash.update(await reader.read(at, PIECE))
    }
    await reader.close()
  }
  return hash.end()
}
