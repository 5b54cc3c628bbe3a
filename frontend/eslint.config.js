import js from '@eslint/js'
import vue from 'eslint-plugin-vue'
import globals from 'globals'
import ts from 'typescript-eslint'

export default ts.config(
  { ignores: ['node_modules', 'src/api/schema.d.ts'] },
  js.configs.recommended,
  ...ts.configs.strict,
  ...vue.configs['flat/essential'],
  {
    languageOptions: { globals: globals.browser, parserOptions: { parser: ts.parser } },
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      'vue/block-lang': ['error', { script: { lang: 'ts' } }],
      'vue/multi-word-component-names': 'off',
      'no-undef': 'off',
    },
  },
)
