/** The built kernels, as the server's own asset. */
import { useStorage } from 'nitropack/runtime'

export async function serverKernels(): Promise<Uint8Array | null> {
  const raw = await useStorage('assets:kernels').getItemRaw<Uint8Array>('kernels.wasm')
  return raw ? new Uint8Array(raw) : null
}
