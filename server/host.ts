/** The server's own host, made once: the built kernels, or their plain twins where the build has none. */
import { plainKernels } from '../core/kernels/plain'
import { wasmKernels } from '../core/kernels/wasm'
import type { Host } from '../core/host'
import { hostWith } from '../platform/node/host'
import { serverKernels } from './kernels'

let host: Promise<Host> | null = null

async function made(): Promise<Host> {
  const kernels = await serverKernels()
  return hostWith(kernels ? await wasmKernels(await WebAssembly.compile(kernels as Uint8Array<ArrayBuffer>)) : plainKernels)
}

export function serverHost(): Promise<Host> {
  return (host ??= made())
}
