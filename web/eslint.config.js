import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import ts from 'typescript-eslint'

export default ts.config(
  { ignores: ['src/api/schema.d.ts', 'components.d.ts', 'node_modules'] },
  ...ts.configs.recommended,
  ...vue.configs['flat/recommended'],
  {
    files: ['**/*.vue'],
    languageOptions: { parserOptions: { parser: ts.parser } },
    rules: {
      'vue/multi-word-component-names': 'off',
      'vue/no-restricted-syntax': [
        'error',
        {
          selector:
            'VElement[name="el-input"]' +
            ':has(VAttribute[key.name.name="on"][key.argument.name="change"])' +
            ':not(:has(VAttribute[key.name.name="model"]))' +
            ':not(:has(VAttribute[key.argument.name="update:model-value"]))',
          message: 'It loses what is typed: use TextField, or take update:model-value.',
        },
      ],
    },
  },
  {
    files: ['**/TextField.vue'],
    rules: { 'vue/no-restricted-syntax': 'off' },
  },
  prettier,
)
