/** Begins a library whose module is instantiated here, once, and again after it could not be had. */

type Begin<T> = (options: never) => Promise<T>

/** `code` brings the library's own code, `load` its module. */
export function beginOnce<T>(
  code: () => Promise<{ default: Begin<T> }>,
  load: () => Promise<WebAssembly.Module>
): () => Promise<T> {
  let begun: Promise<T> | null = null
  return () => {
    begun ??= (async () => {
      const [{ default: begin }, module] = await Promise.all([code(), load()])
      return begin({
        noInitialRun: true,
        instantiateWasm(imports: WebAssembly.Imports, done: (instance: WebAssembly.Instance) => void) {
          const instance = new WebAssembly.Instance(module, imports)
          done(instance)
          return instance.exports
        }
      } as never)
    })().catch((error: unknown) => {
      begun = null
      throw error
    })
    return begun
  }
}
