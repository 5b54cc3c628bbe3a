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

export default ts.config(
  { ignores: ['node_modules', 'src/api/schema.d.ts'] },
  js.configs.recommended,
  ...ts.configs.strict,
  ...vue.configs['flat/essential'],
  {
    files: ['src/**/*.{ts,vue}'],
    plugins: { page: { rules: { 'tokens-only': tokensOnly } } },
    languageOptions: { globals: globals.browser, parserOptions: { parser: ts.parser } },
    rules: {
      'page/tokens-only': 'error',
      '@typescript-eslint/no-explicit-any': 'error',
      'vue/block-lang': ['error', { script: { lang: 'ts' } }],
      'vue/multi-word-component-names': 'off',
      'no-undef': 'off',
    },
  },
)
