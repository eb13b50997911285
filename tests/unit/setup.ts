/** Builds the kernels when they are older than their sources, so that tests never run against yesterday's. */
import path from 'node:path'

export default async function setup(): Promise<void> {
  const { buildKernels } = (await import(path.resolve(import.meta.dirname, '../../scripts/build.mjs'))) as {
    buildKernels(): string
  }
  buildKernels()
}
