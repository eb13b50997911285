/** Lint: types, Vue, and the direction of imports that the architecture promises. */
import { createTypeScriptImportResolver } from 'eslint-import-resolver-typescript'
import importX from 'eslint-plugin-import-x'
import vue from 'eslint-plugin-vue'
import tseslint from 'typescript-eslint'
import vueParser from 'vue-eslint-parser'

/** The floors of the core, from the ground up (docs/architecture.md): each knows only what lies beneath it. */
const FLOORS = ['base', 'frame', 'source', 'media', 'prepare', 'draw', 'open', 'job', 'judge', 'run', 'tasks']

/** Which folder may import which (docs/architecture.md). `from` is what must not be reached. */
const borders = [
  ...FLOORS.slice(0, -1).map((floor, n) => ({
    target: `./core/${floor}`,
    from: FLOORS.slice(n + 1).map(above => `./core/${above}`)
  })),
  // hot loops know nothing of what is done with them
  { target: './core/frame/kernels', from: './core/frame/*.ts' },
  // what a packet means and where it lies are told apart, and neither knows which formats there are
  {
    target: './core/media/containers',
    from: ['./core/media/codecs', './core/media/pictures', './core/media/formats']
  },
  { target: './core/media/codecs', from: './core/media/formats/!(deliverable|form).ts' },
  { target: './core/media/carriage', from: './core/media/!(carriage|formats|pictures)/**' },
  { target: './core/media/sound', from: './core/media/!(sound)/**' },
  { target: './core', from: ['./platform', './app', './server', './cli', './demo', './tests'] },
  { target: './platform', from: ['./app', './server', './cli', './demo', './tests'] },
  { target: './demo', from: ['./platform', './app', './server', './cli', './tests'] },
  { target: './app', from: ['./server', './cli', './demo', './tests'] },
  { target: './server', from: ['./app', './cli', './tests'] },
  { target: './cli', from: ['./app', './server', './demo', './tests'] }
]

export default tseslint.config(
  {
    ignores: [
      'node_modules',
      '.nuxt',
      '.output',
      'dist',
      'core/frame/kernels/assembly',
      'core/frame/kernels/build',
      'test-results',
      'playwright-report'
    ]
  },
  ...tseslint.configs.strict,
  ...vue.configs['flat/recommended'],
  {
    files: ['**/*.ts', '**/*.vue', '**/*.mjs'],
    languageOptions: {
      parser: vueParser,
      parserOptions: { parser: tseslint.parser, extraFileExtensions: ['.vue'], sourceType: 'module' }
    },
    plugins: { 'import-x': importX },
    settings: {
      'import-x/extensions': ['.ts', '.mjs'],
      'import-x/parsers': { '@typescript-eslint/parser': ['.ts'] },
      'import-x/resolver-next': [createTypeScriptImportResolver({ project: './tsconfig.json' })]
    },
    rules: {
      'import-x/no-restricted-paths': [
        'error',
        { zones: borders.flatMap(({ target, from }) => [from].flat().map(place => ({ target, from: place }))) }
      ],
      // more than five go as one value with names
      'max-params': ['error', 5],
      // a sentence that is said stays in one piece where it would lose by being cut
      'max-len': [
        'error',
        { code: 120, ignoreStrings: true, ignoreTemplateLiterals: true, ignoreRegExpLiterals: true, ignoreUrls: true }
      ],
      'import-x/no-cycle': ['error', { ignoreExternal: true }],
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-invalid-void-type': 'off',
      '@typescript-eslint/unified-signatures': 'off',
      '@typescript-eslint/consistent-type-imports': ['error', { fixStyle: 'inline-type-imports' }],
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      'vue/multi-word-component-names': 'off',
      'vue/max-attributes-per-line': 'off',
      'vue/singleline-html-element-content-newline': 'off',
      'vue/html-self-closing': 'off',
      'vue/html-indent': 'off',
      'vue/html-closing-bracket-newline': 'off',
      'vue/multiline-html-element-content-newline': 'off',
      'vue/require-default-prop': 'off',
      'vue/first-attribute-linebreak': 'off',
      'vue/attributes-order': 'off',
      // what a template shows stands in the imports beside it
      'vue/no-undef-components': ['error', { ignorePatterns: ['^El[A-Z]', '^el-', '^Nuxt', '^[Cc]lient'] }],
      'no-console': 'error'
    }
  },
  {
    files: ['core/**/*.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              regex: '^(node:|vue|pinia|dexie|element-plus|nuxt|#|~)',
              message: 'The core knows neither interface nor machine.'
            }
          ]
        }
      ],
      'no-restricted-globals': ['error', 'window', 'document', 'navigator', 'process', 'Buffer']
    }
  },
  {
    // what a component or a store sets up runs from top to bottom, and what it calls on the way must be there already
    files: ['app/**/*.vue', 'app/stores/**', 'app/composables/**', 'app/components/**/*.ts'],
    rules: {
      '@typescript-eslint/no-use-before-define': ['error', { functions: false, classes: false, typedefs: false }]
    }
  },
  { files: ['scripts/**', 'cli/**', 'tests/**'], rules: { 'no-console': 'off' } }
)
