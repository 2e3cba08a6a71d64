import js from '@eslint/js';
import angular from 'angular-eslint';
import prettier from 'eslint-config-prettier';
import tseslint from 'typescript-eslint';

const ours = (...packages) => packages.flatMap((name) => [`@iron-lattice/${name}`, `@iron-lattice/${name}/*`]);
/** Who may import whom; cycles and folders inside packages are checked by dependency-cruiser. */
const only = (files, forbidden, message, more = []) => ({
  files,
  rules: {
    'no-restricted-imports': [
      'error',
      {
        patterns: [{ group: [...ours(...forbidden), ...more], message }],
        paths: [{ name: 'joi', message: 'Input is checked by core/schema, which checks limits first.' }],
      },
    ],
  },
});

export default tseslint.config(
  { ignores: ['**/dist/**', '**/.angular/**', '**/node_modules/**', '.data/**', 'e2e/test-results/**'] },
  js.configs.recommended,
  {
    files: ['**/*.ts'],
    extends: [...tseslint.configs.recommendedTypeChecked],
    languageOptions: {
      parserOptions: {
        project: ['./tsconfig.json', './e2e/tsconfig.json', './web/tsconfig.json'],
        tsconfigRootDir: import.meta.dirname,
      },
    },
    rules: {
      '@typescript-eslint/no-unused-vars': [
        'error',
        { argsIgnorePattern: '^_', varsIgnorePattern: '^_', ignoreRestSiblings: true },
      ],
      '@typescript-eslint/consistent-type-imports': ['error', { fixStyle: 'inline-type-imports' }],
      '@typescript-eslint/switch-exhaustiveness-check': 'error',
      '@typescript-eslint/require-await': 'off',
      eqeqeq: 'error',
      'no-console': 'error',
    },
  },
  {
    files: ['**/*.spec.ts', 'e2e/**/*.ts', '**/testing/*.ts', 'bench/**/*.ts'],
    rules: {
      '@typescript-eslint/no-explicit-any': 'off',
      '@typescript-eslint/no-unsafe-assignment': 'off',
      '@typescript-eslint/no-unsafe-member-access': 'off',
      '@typescript-eslint/no-unsafe-argument': 'off',
      '@typescript-eslint/no-unsafe-call': 'off',
      '@typescript-eslint/no-unsafe-return': 'off',
      'no-console': 'off',
    },
  },
  {
    files: ['core/vectors/run.ts', 'core/strands/run.ts', 'core/verdicts/run.ts', 'web/src/main.ts'],
    rules: { 'no-console': 'off' },
  },
  {
    files: ['web/**/*.ts'],
    extends: [...angular.configs.tsRecommended],
    processor: angular.processInlineTemplates,
    rules: {
      '@angular-eslint/component-selector': ['error', { type: 'element', prefix: 'il', style: 'kebab-case' }],
      '@angular-eslint/prefer-on-push-component-change-detection': 'off', // zoneless: signals decide
      'no-restricted-syntax': [
        'error',
        {
          selector:
            'CallExpression[callee.name="linkedSignal"] > ObjectExpression > Property[key.name="computation"] > ArrowFunctionExpression[params.length=0]',
          message:
            'anewFor instead: this begins anew whenever anything that it reads is heard of, and loses what is typed.',
        },
      ],
    },
  },
  {
    files: ['web/**/*.html'],
    extends: [...angular.configs.templateRecommended, ...angular.configs.templateAccessibility],
    rules: {
      // Rows repeat by mouse what a button in them does by keyboard.
      '@angular-eslint/template/click-events-have-key-events': 'off',
      '@angular-eslint/template/interactive-supports-focus': 'off',
      // Labels name Material fields by id, which the rule does not see.
      '@angular-eslint/template/label-has-associated-control': 'off',
    },
  },
  {
    files: ['**/*.mjs', '**/*.cjs'],
    languageOptions: {
      globals: {
        document: 'readonly',
        requestAnimationFrame: 'readonly',
        process: 'readonly',
        console: 'readonly',
        URL: 'readonly',
        fetch: 'readonly',
        clearTimeout: 'readonly',
        setInterval: 'readonly',
        setTimeout: 'readonly',
        performance: 'readonly',
        module: 'writable',
        require: 'readonly',
        __dirname: 'readonly',
        Buffer: 'readonly',
        Atomics: 'readonly',
        Int32Array: 'readonly',
        SharedArrayBuffer: 'readonly',
        structuredClone: 'readonly',
      },
    },
  },
  only(
    ['core/src/**/*.ts'],
    ['fleet', 'server', 'web', 'e2e'],
    'core imports nothing of ours, of the DOM or of Node.',
    ['node:*', 'rxjs', '@angular/*'],
  ),
  only(['fleet/**/*.ts'], ['server', 'web', 'e2e'], 'fleet imports core only; it meets the controller on sockets.'),
  only(
    ['server/**/*.ts'],
    ['fleet', 'web', 'e2e'],
    'server imports core only; it meets devices and browsers on sockets.',
  ),
  only(['web/**/*.ts'], ['fleet', 'server', 'e2e'], 'web imports core only; it meets the server on its API.', [
    'node:*',
  ]),
  {
    files: ['server/**/*.ts'],
    ignores: ['**/*.spec.ts'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: 'NewExpression[callee.object.name="pg"][callee.property.name="Client"]',
          message: 'HeardClient instead: an error that nobody listens to ends the process.',
        },
        {
          selector:
            'NewExpression[callee.object.name="pg"][callee.property.name="Pool"]:not(:has(Property[key.name="Client"]))',
          message: 'A pool of HeardClient: an error that nobody listens to ends the process.',
        },
      ],
    },
  },
  { files: ['**/*.spec.ts', 'core/src/schema/*.ts'], rules: { 'no-restricted-imports': 'off' } },
  prettier,
);
