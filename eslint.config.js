import prettier from 'eslint-config-prettier';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';
import svelteConfig from './svelte.config.js';

export default ts.config(
  {
    ignores: ['build/', '.commands/', '.svelte-kit/', 'node_modules/', 'static/', 'test-results/']
  },
  ...ts.configs.recommended,
  ...svelte.configs.recommended,
  prettier,
  ...svelte.configs.prettier,
  { languageOptions: { globals: { ...globals.browser, ...globals.node } } },
  {
    files: ['**/*.svelte', '**/*.svelte.ts'],
    languageOptions: {
      parserOptions: { parser: ts.parser, extraFileExtensions: ['.svelte'], svelteConfig }
    }
  },
  {
    rules: {
      '@typescript-eslint/no-unused-vars': [
        'error',
        { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }
      ],
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/switch-exhaustiveness-check': 'off',
      'no-empty': ['error', { allowEmptyCatch: false }],
      eqeqeq: 'error',
      'svelte/no-navigation-without-resolve': 'off',
      // Collections replaced whole, or private to a class, need no reactivity of their own.
      'svelte/prefer-svelte-reactivity': 'off'
    }
  },
  {
    files: ['core/**/*.ts'],
    ignores: ['**/*.test.ts', 'core/tests/**'],
    rules: {
      'no-restricted-globals': [
        'error',
        'window',
        'document',
        'process',
        'Buffer',
        'localStorage',
        'fetch'
      ],
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group: ['node:*', 'svelte', 'svelte/*', '$lib/*', '$app/*'],
              message: 'core runs everywhere: no Node, no Svelte, no page.'
            }
          ]
        }
      ]
    }
  }
);
