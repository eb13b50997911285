/** Stands for Nuxt's own module where stores run without a page. */
import { build } from './page'

export const useRuntimeConfig = (): { app: { buildId: string } } => ({ app: { buildId: build.id } })
