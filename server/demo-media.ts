/** Makes the demo's files once, in the background from the start of the server, and keeps them. */
import { unreachable } from '../core/base/errors'
import { wasmKernels } from '../core/frame/kernels/wasm'
import type { Host } from '../core/frame/host'
import { demoSources, demoZip } from '../demo/fernbrook'
import { hostWith } from '../platform/node/host'

const made = new Map<string, Promise<Uint8Array<ArrayBuffer>>>()

async function host(kernels: Uint8Array | null): Promise<Host> {
  if (!kernels) throw unreachable('the compiled kernels are not beside the server; build it again')
  return hostWith(await wasmKernels(await WebAssembly.compile(kernels as Uint8Array<ArrayBuffer>)))
}

/** The ZIP called `file`; null when the demo has none of that name. `kernels` is the WASM file, where it is at hand. */
export function demoFile(
  file: string,
  kernels: () => Promise<Uint8Array | null>
): Promise<Uint8Array<ArrayBuffer>> | null {
  const source = demoSources.find(s => s.file === file)
  if (!source) return null
  let zip = made.get(file)
  if (!zip) {
    zip = kernels()
      .then(host)
      .then(ready => demoZip(source, ready))
    made.set(file, zip)
  }
  return zip
}
