import { defineConfig } from 'vitest/config'

export default defineConfig({
  // the page's own settings are made when it is prepared; tests ask for none of it
  esbuild: { tsconfigRaw: JSON.stringify({ compilerOptions: { target: 'es2022', verbatimModuleSyntax: true } }) },
  // parts of the interface that need no page are tested as they are
  resolve: {
    alias: {
      '~~': import.meta.dirname,
      '~': `${import.meta.dirname}/app`,
      'nuxt/app': `${import.meta.dirname}/tests/unit/stores/nuxt-app.ts`
    }
  },
  test: {
    include: ['tests/{unit,witness}/**/*.test.ts'],
    globalSetup: ['tests/unit/setup.ts'],
    testTimeout: 240_000,
    hookTimeout: 240_000,
    // two processors: more workers would only wait for each other
    maxWorkers: 2
  }
})
