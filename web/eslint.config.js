import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import accessibility from 'eslint-plugin-vuejs-accessibility'
import ts from 'typescript-eslint'

export default ts.config(
  { ignores: ['dist', 'src/generated'] },
  ...ts.configs.recommended,
  ...vue.configs['flat/recommended'],
  ...accessibility.configs['flat/recommended'],
  {
    rules: {
      'vuejs-accessibility/label-has-for': ['error', { required: { some: ['nesting', 'id'] } }],
      // Esc closes forms and menus, arrows walk through tables: keys that bubble up to what they are keys of.
      'vuejs-accessibility/no-static-element-interactions': 'off',
    },
  },
  {
    // The kit binds label and field by the ids of FormField, which the rule does not follow.
    files: ['src/common/fields/*.vue'],
    rules: { 'vuejs-accessibility/form-control-has-label': 'off' },
  },
  {
    // One row of the tree, or the field above the hits, has the focus for all of them (WAI-ARIA's patterns).
    files: ['src/common/frame/AssetTree.vue', 'src/common/frame/JumpBox.vue'],
    rules: { 'vuejs-accessibility/interactive-supports-focus': 'off' },
  },
  {
    // The curve is one slider, which has the keys; its columns are pressed with a pointer besides.
    files: ['src/watch/FinderCurve.vue'],
    rules: { 'vuejs-accessibility/click-events-have-key-events': 'off' },
  },
  {
    // What only types can tell. Components are left to vue-tsc: through them these rules take a minute.
    files: ['src/**/*.ts'],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: {
      '@typescript-eslint/await-thenable': 'error',
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/no-misused-promises': 'error',
      '@typescript-eslint/no-unnecessary-type-assertion': 'error',
      '@typescript-eslint/switch-exhaustiveness-check': 'error',
    },
  },
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
