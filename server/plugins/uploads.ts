/** Clears away, as the server starts, what a former one could not. */
import { defineNitroPlugin } from 'nitropack/runtime'
import { clearUploads } from '../body'

export default defineNitroPlugin(() => {
  clearUploads().catch((error: unknown) => process.emitWarning(`old uploads could not be removed: ${String(error)}`))
})
