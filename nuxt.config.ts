/**
 * The page is drawn in the browser alone; the server hands it out, with headers that isolate it, and serves the demo
 * job.
 */
import { fileURLToPath } from 'node:url'
import { defineNuxtConfig } from 'nuxt/config'
import { version } from './package.json'
import { codeVersion } from './scripts/code-version.mjs'

const NOTHING = fileURLToPath(new URL('./platform/browser/nothing.ts', import.meta.url))

/** Comments of libraries that the bundler cannot place are their own affair; every other warning is told. */
function onwarn(warning: { code?: string }, tell: (warning: never) => void): void {
  if (warning.code !== 'INVALID_ANNOTATION') tell(warning as never)
}

export default defineNuxtConfig({
  compatibilityDate: '2026-11-01',
  ssr: false,
  // what was looked at is kept by the code that looked: the same code has the same name wherever it was built
  buildId: codeVersion(),
  telemetry: false,
  modules: ['@pinia/nuxt', ['@element-plus/nuxt', { importStyle: 'css', icon: false, themes: [] }]],
  css: [
    '@fontsource/ibm-plex-sans/latin-400.css',
    '@fontsource/ibm-plex-sans/latin-500.css',
    '@fontsource/ibm-plex-sans/latin-600.css',
    '@fontsource/ibm-plex-mono/latin-400.css',
    '@fontsource/ibm-plex-mono/latin-500.css',
    '~/assets/tokens.css',
    '~/assets/base.css'
  ],
  // what a file uses stands in its imports; only Nuxt's own components and Element Plus's are there by themselves
  components: { dirs: [] },
  imports: { autoImport: false },
  typescript: {
    strict: true,
    tsConfig: {
      compilerOptions: {
        noUncheckedIndexedAccess: true,
        exactOptionalPropertyTypes: false,
        verbatimModuleSyntax: true
      },
      exclude: ['../core/frame/kernels/assembly']
    }
  },
  app: {
    head: {
      title: 'Pour',
      htmlAttrs: { lang: 'en' },
      link: [{ rel: 'icon', type: 'image/svg+xml', href: '/favicon.svg' }],
      meta: [{ name: 'viewport', content: 'width=device-width, initial-scale=1' }]
    }
  },
  runtimeConfig: { empty: false, public: { version } },
  vite: {
    // a library asks for these on Node alone, and never does in a browser
    resolve: { alias: { fs: NOTHING, path: NOTHING } },
    worker: { format: 'es', rollupOptions: { onwarn } as object },
    build: {
      target: 'es2022',
      chunkSizeWarningLimit: 3000,
      rollupOptions: { onwarn },
      assetsInlineLimit: (file: string) => (file.endsWith('.wasm') || file.endsWith('.woff2') ? false : undefined)
    },
    optimizeDeps: { include: ['dexie', 'comlink', 'immer', 'fflate', 'client-zip', 'fast-png'] }
  },
  // gifenc has an ES build that Node.js does not find by itself; within the bundle it does
  nitro: {
    errorHandler: '~~/server/error',
    serverAssets: [{ baseName: 'kernels', dir: '../core/frame/kernels/build' }],
    externals: { inline: ['gifenc'] },
    compressPublicAssets: { gzip: true, brotli: false },
    // kernels count in numbers of 64 bits
    esbuild: { options: { target: 'es2022' } }
  },
  hooks: {
    // what is first needed later is not fetched before: decoders, players, other pages
    'build:manifest'(manifest) {
      for (const part of Object.values(manifest)) part.prefetch = false
    }
  },
  experimental: { payloadExtraction: false, appManifest: false },
  devtools: { enabled: false }
})
