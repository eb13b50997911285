/** The server's own host, made once: the built kernels, or their plain twins where the build has none. */
import { noRoom } from '../core/errors'
import { plainKernels } from '../core/kernels/plain'
import { wasmKernels } from '../core/kernels/wasm'
import type { Host } from '../core/host'
import { hostWith } from '../platform/node/host'
import { serverKernels } from './kernels'

let host: Promise<Host> | null = null

/** What one file may unpack to: a small archive can hold much more than it weighs. */
const MOST_UNPACKED = 256 * 2 ** 20

async function made(): Promise<Host> {
  const kernels = await serverKernels()
  const host = hostWith(
    kernels ? await wasmKernels(await WebAssembly.compile(kernels as Uint8Array<ArrayBuffer>)) : plainKernels
  )
  return {
    ...host,
    openFile: file =>
      file.size > MOST_UNPACKED
        ? Promise.reject(
            noRoom(
              `${file.path} unpacks to ${Math.ceil(file.size / 2 ** 20)} MiB, and ${MOST_UNPACKED / 2 ** 20} are taken here`
            )
          )
        : host.openFile(file)
  }
}

export function serverHost(): Promise<Host> {
  return (host ??= made())
}
