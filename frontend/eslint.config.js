import js from '@eslint/js'
import vue from 'eslint-plugin-vue'
import globals from 'globals'
import ts from 'typescript-eslint'

const COLOUR = /#(?:[0-9a-f]{8}|[0-9a-f]{6}|[0-9a-f]{3,4})\b(?!-)|\b(?:rgba?|hsla?)\(/gi
const SIZE = /font-size:(?!\s*(?:var\(--text-|inherit|[\d.]+em\b))\s*[^;]+/g

/** Colours and text sizes stand in the token file alone, styles of components included. */
const tokensOnly = {
  meta: { type: 'problem', schema: [] },
  create: (context) => ({
    Program() {
      const text = context.sourceCode.text
      for (const [pattern, what] of [
        [COLOUR, 'colour'],
        [SIZE, 'text size'],
      ]) {
        for (const found of text.matchAll(pattern)) {
          context.report({
            loc: context.sourceCode.getLocFromIndex(found.index),
            message: `The ${what} ${found[0].trim()} belongs into src/app/tokens.css.`,
          })
        }
      }
    },
  }),
}

const PAGE = ['src/**/*.{ts,vue}']
/** The linter's own program does not read components: what they are is vue-tsc's to check. */
const OF_COMPONENTS = Object.fromEntries(
  ['argument', 'assignment', 'call', 'member-access', 'return'].map((what) => [
    `@typescript-eslint/no-unsafe-${what}`,
    'off',
  ]),
)

const OF_ASSERTIONS = {
  '@typescript-eslint/no-redundant-type-constituents': 'off',
  '@typescript-eslint/no-unnecessary-type-assertion': 'off',
}

/** Layout is prettier's. */
const OF_LAYOUT = Object.fromEntries(
  [
    'attributes-order',
    'html-closing-bracket-newline',
    'html-indent',
    'html-self-closing',
    'max-attributes-per-line',
    'multiline-html-element-content-newline',
    'singleline-html-element-content-newline',
  ].map((what) => [`vue/${what}`, 'off']),
)

export default ts.config(
  { ignores: ['node_modules', 'src/api/schema.d.ts'] },
  js.configs.recommended,
  ...ts.configs.strict,
  ...ts.configs.recommendedTypeCheckedOnly.map((c) => ({ ...c, files: PAGE })),
  ...vue.configs['flat/recommended'],
  {
    files: PAGE,
    plugins: { page: { rules: { 'tokens-only': tokensOnly } } },
    languageOptions: {
      globals: globals.browser,
      parserOptions: { parser: ts.parser, projectService: true, extraFileExtensions: ['.vue'] },
    },
    rules: {
      'page/tokens-only': 'error',
      '@typescript-eslint/no-explicit-any': 'error',
      'vue/block-lang': ['error', { script: { lang: 'ts' } }],
      'vue/multi-word-component-names': 'off',
      'no-undef': 'off',
      ...OF_COMPONENTS,
      ...OF_LAYOUT,
    },
  },
  { files: ['src/**/*.vue'], rules: OF_ASSERTIONS },
  {
    files: ['src/**/*.test.ts'],
    rules: { 'vue/one-component-per-file': 'off', '@typescript-eslint/require-await': 'off' },
  },
)
