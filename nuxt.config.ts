/**
 * The page is drawn in the browser alone; the server hands it out, with headers that isolate it, and serves the demo
 * job.
 */
import { defineNuxtConfig } from 'nuxt/config'
import { version } from './package.json'
import { codeVersion } from './scripts/code-version.mjs'

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
  components: [{ path: '~/components', pathPrefix: false }],
  typescript: {
    strict: true,
    tsConfig: {
      compilerOptions: {
        noUncheckedIndexedAccess: true,
        exactOptionalPropertyTypes: false,
        verbatimModuleSyntax: true
      },
      exclude: ['../core/kernels/assembly']
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
    worker: { format: 'es' },
    build: {
      target: 'es2022',
      assetsInlineLimit: (file: string) => (file.endsWith('.wasm') || file.endsWith('.woff2') ? false : undefined)
    },
    optimizeDeps: { include: ['dexie', 'comlink', 'immer', 'fflate', 'client-zip', 'fast-png'] }
  },
  // gifenc has an ES build that Node.js does not find by itself; within the bundle it does
  nitro: {
    errorHandler: '~~/server/error',
    serverAssets: [{ baseName: 'kernels', dir: '../core/kernels/build' }],
    externals: { inline: ['gifenc'] }
  },
  experimental: { payloadExtraction: false, appManifest: false },
  devtools: { enabled: false }
})
