import process from 'node:process';
import js from '@eslint/js';
import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

// Rules that take most of the time and find least: they are asked before a change lands, and by whoever wants them.
const every = process.env.FRESHBOOT_EVERY_START !== undefined;
const slow = {
  '@typescript-eslint/no-deprecated': 'off',
  '@typescript-eslint/no-unsafe-class-instance-assignment': 'off',
  '@typescript-eslint/no-unsafe-enum-assignment': 'off',
};
const quickHooks = { 'react-hooks/rules-of-hooks': 'error', 'react-hooks/exhaustive-deps': 'warn' };

export default tseslint.config(
  { ignores: ['dist', 'fonts.mjs', 'src/api/schema.d.ts'] },
  js.configs.recommended,
  ...tseslint.configs.strictTypeChecked,
  {
    languageOptions: {
      parserOptions: { project: './tsconfig.json', tsconfigRootDir: import.meta.dirname },
    },
    plugins: { 'react-hooks': hooks },
    rules: {
      ...(every ? hooks.configs.recommended.rules : { ...quickHooks, ...slow }),
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true }],
      '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { attributes: false } }],
    },
  },
  { files: ['eslint.config.js'], ...tseslint.configs.disableTypeChecked },
);
