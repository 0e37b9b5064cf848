import js from '@eslint/js'
import hooks from 'eslint-plugin-react-hooks'
import ts from 'typescript-eslint'

/**
 * Allowed imports between folders go one way: the listed folders may not be imported from there.
 */
const walls = (files, forbidden, message) => ({
  files,
  ignores: ['**/*.test.ts'],
  rules: {
    'no-restricted-imports': [
      'error',
      { patterns: forbidden.map((group) => ({ group: [group], message })) },
    ],
  },
})

/** Functions on whose last bits engines disagree; `random` is never the same. */
const UNEQUAL_MATH = [
  ...['random', 'sin', 'cos', 'tan', 'asin', 'acos', 'atan', 'atan2', 'sinh', 'cosh', 'tanh'],
  ...['exp', 'expm1', 'log', 'log2', 'log10', 'log1p', 'pow', 'hypot', 'cbrt'],
]

export default ts.config(
  { ignores: ['dist', 'node_modules', '.telon', 'coverage', 'e2e/previous'] },
  js.configs.recommended,
  ...ts.configs.recommended,
  {
    // What is longer, or nested deeper, is broken up: it has parts that can be named.
    ignores: ['**/*.test.ts', 'e2e/**'],
    rules: {
      'max-lines-per-function': ['error', { max: 100 }],
      'max-depth': ['error', 4],
    },
  },
  {
    // Prettier breaks code. What is left are texts, which are not broken, and comments.
    rules: {
      'max-len': [
        'error',
        {
          code: 100,
          ignoreStrings: true,
          ignoreTemplateLiterals: true,
          ignoreRegExpLiterals: true,
          ignoreUrls: true,
        },
      ],
    },
  },
  {
    rules: {
      '@typescript-eslint/no-unused-vars': [
        'error',
        { argsIgnorePattern: '^_', varsIgnorePattern: '^_', ignoreRestSiblings: true },
      ],
      '@typescript-eslint/consistent-type-imports': 'error',
      'no-control-regex': 'off',
    },
  },
  { files: ['**/*.tsx', 'studio/**/*.ts'], ...hooks.configs.flat['recommended-latest'] },
  {
    files: ['scripts/**/*.mjs', '*.mjs'],
    languageOptions: {
      globals: {
        process: 'readonly',
        console: 'readonly',
        URL: 'readonly',
        setTimeout: 'readonly',
      },
    },
  },
  walls(
    ['core/**/*.ts'],
    [
      '**/studio/**',
      '**/server/**',
      '**/runtime/**',
      '**/headless/**',
      '**/cli/**',
      '**/demo/**',
      'react',
      'react/*',
      'koa',
      'sequelize',
      'node:*',
    ],
    'The core is pure and imports only itself.',
  ),
  {
    files: ['core/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: {
      'no-restricted-globals': ['error', 'window', 'document', 'fetch', 'process', 'navigator'],
      'no-restricted-properties': [
        'error',
        { object: 'Math', property: 'random' },
        { object: 'Date', property: 'now' },
      ],
    },
  },
  {
    // Particles are the same in every engine, to the bit.
    files: ['core/particles/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: {
      'no-restricted-properties': [
        'error',
        { object: 'Date', property: 'now' },
        ...UNEQUAL_MATH.map((property) => ({ object: 'Math', property })),
      ],
      'no-restricted-syntax': [
        'error',
        {
          selector: "BinaryExpression[operator='**']",
          message: 'Engines disagree on the last bits of powers.',
        },
      ],
    },
  },
  walls(
    ['runtime/*.ts'],
    ['**/core/**', '**/studio/**', '**/server/**', '**/headless/**', '**/cli/**'],
    'The delivered script depends on nothing.',
  ),
  {
    // Particles are drawn by the same code everywhere.
    files: ['runtime/parts/**/*.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              regex: '/(core/(?!particles/)|studio/|server/|headless/|cli/)',
              message: 'Of the core, only the engine of particles is delivered.',
            },
          ],
        },
      ],
    },
  },
  // How it is built is no part of it.
  { files: ['runtime/vite.config.ts'], rules: { 'no-restricted-imports': 'off' } },
  walls(
    ['studio/**/*.{ts,tsx}'],
    ['**/server/**', '**/headless/**', '**/cli/**', '**/runtime/**', '**/demo/**'],
    'The studio imports only the core.',
  ),
  walls(
    ['server/**/*.ts'],
    ['**/studio/**', '**/headless/**', '**/cli/**', '**/runtime/**', '**/demo/**'],
    'The server imports only the core.',
  ),
  // The headless browser drives the built studio; it knows only what its page offers.
  walls(
    ['headless/**/*.ts'],
    ['**/server/**', '**/cli/**', '**/runtime/**', '**/demo/**'],
    'The headless browser stands on core and studio alone.',
  ),
  walls(
    ['encoders/**/*.ts'],
    ['**/studio/**', '**/server/**', '**/cli/**', '**/runtime/**', '**/demo/**'],
    'Encoders stand on the core and the headless browser.',
  ),
  walls(
    ['render-worker/**/*.ts'],
    ['**/studio/**', '**/server/**', '**/cli/**', '**/runtime/**', '**/demo/**'],
    'A render worker knows the server by its routes only.',
  ),
  // The documents of the model name a parameter `document`; it is never the page's.
  {
    files: ['core/backdrop/**', 'core/handoff/**', 'core/behaviour/**'],
    rules: { 'no-restricted-globals': 'off' },
  },
)
