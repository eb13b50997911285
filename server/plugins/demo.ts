/** Begins to make the demo as the server starts, so that the first page need not wait. */
import { defineNitroPlugin, useRuntimeConfig } from 'nitropack/runtime'
import { demoSources } from '../../demo/fernbrook'
import { demoFile } from '../demo-media'
import { serverKernels } from '../kernels'

export default defineNitroPlugin(() => {
  if (useRuntimeConfig().empty) return
  void (async () => {
    for (const { file } of demoSources) await demoFile(file, serverKernels)
  })().catch((error: unknown) => process.emitWarning(`the demo could not be made: ${String(error)}`))
})
