import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import svelte from 'eslint-plugin-svelte';
import { defineConfig, globalIgnores } from 'eslint/config';
import globals from 'globals';
import ts from 'typescript-eslint';
import svelteConfig from './svelte.config.js';

const impure = [
	{
		selector: "MemberExpression[object.name='Date'][property.name='now']",
		message: 'The clock is a port: ports.now().'
	},
	{ selector: "NewExpression[callee.name='Date'][arguments.length=0]", message: 'The clock is a port: ports.now().' },
	{
		selector: "MemberExpression[object.name='Math'][property.name='random']",
		message: 'Chance is a port: ports.randomBytes().'
	},
	{
		selector: "MemberExpression[object.name='JSON'][property.name='stringify']",
		message: 'Integers of any size may be there: writeJson().'
	},
	{
		selector: "Program > VariableDeclaration[kind='let']",
		message: 'No state at module level: two runs never share anything.'
	},
	{
		selector: "Program > ExportNamedDeclaration > VariableDeclaration[kind='let']",
		message: 'No state at module level.'
	}
];

export default defineConfig(
	globalIgnores(['build', 'dist', 'data', '.svelte-kit', 'coverage', 'test-results']),
	js.configs.recommended,
	ts.configs.recommended,
	svelte.configs.recommended,
	prettier,
	svelte.configs.prettier,
	{
		languageOptions: { globals: { ...globals.browser, ...globals.node } },
		rules: {
			'no-undef': 'off', // TypeScript checks names
			'svelte/no-navigation-without-resolve': 'off', // there is no base path
			'@typescript-eslint/no-unused-vars': [
				'error',
				{ argsIgnorePattern: '^_', varsIgnorePattern: '^_', ignoreRestSiblings: true }
			],
			'@typescript-eslint/no-unused-expressions': ['error', { allowTernary: true, allowShortCircuit: true }]
		}
	},
	{
		files: ['**/*.svelte', '**/*.svelte.ts'],
		languageOptions: {
			parserOptions: { projectService: true, extraFileExtensions: ['.svelte'], parser: ts.parser, svelteConfig }
		}
	},
	{
		// with types: a promise that nobody waits for is an error that nobody sees
		files: ['src/**/*.ts', 'src/**/*.svelte', 'standins/**/*.ts', 'tests/**/*.ts'],
		languageOptions: { parserOptions: { projectService: true } },
		rules: {
			'@typescript-eslint/no-floating-promises': 'error',
			'@typescript-eslint/no-misused-promises': 'error',
			'@typescript-eslint/switch-exhaustiveness-check': ['error', { considerDefaultExhaustiveForUnions: true }]
		}
	},
	{
		// a file, or a closure, that holds everything
		files: ['src/**/*.ts', 'src/**/*.svelte', 'standins/**/*.ts'],
		ignores: ['**/*.test.ts'],
		rules: {
			'max-lines': ['error', { max: 400 }],
			'max-lines-per-function': ['error', { max: 60 }]
		}
	},
	{ files: ['src/core/**/*.ts'], ignores: ['**/*.test.ts'], rules: { 'no-restricted-syntax': ['error', ...impure] } }
);
