import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import ts from 'typescript-eslint'

export default ts.config(
  { ignores: ['dist', 'src/generated'] },
  ...ts.configs.recommended,
  ...vue.configs['flat/recommended'],
  {
    files: ['**/*.vue'],
    languageOptions: { parserOptions: { parser: ts.parser } },
    rules: {
      // Type-only props need no run-time default.
      'vue/require-default-prop': 'off',
      'vue/multi-word-component-names': 'off',
    },
  },
  {
    // Numbers and dates are written in one place, by the installation's locale.
    files: ['src/**/*.ts', 'src/**/*.vue'],
    ignores: ['src/common/format.ts', 'src/common/installation.ts', 'src/**/*.test.ts'],
    rules: Object.fromEntries(
      ['no-restricted-syntax', 'vue/no-restricted-syntax'].map((rule) => [
        rule,
        [
          'error',
          { selector: 'CallExpression[callee.property.name=/^toLocale/]', message: 'use common/format' },
          { selector: 'Literal[value=/^[a-z]{2}-[A-Z]{2}$/]', message: 'use common/format' },
          { selector: 'NewExpression[callee.object.name="Intl"]', message: 'use common/format' },
        ],
      ]),
    ),
  },
  prettier,
)
