import prettier from 'eslint-config-prettier';
import vue from 'eslint-plugin-vue';
import tseslint from 'typescript-eslint';

export default tseslint.config(
    { ignores: ['dist', 'node_modules', 'src/api/schema.ts'] },
    ...tseslint.configs.recommended,
    ...vue.configs['flat/recommended'],
    { files: ['**/*.vue'], languageOptions: { parserOptions: { parser: tseslint.parser } } },
    { files: ['src/**'], rules: { 'max-lines': ['error', { max: 300, skipComments: true }] } },
    prettier,
);
