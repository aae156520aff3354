// npm run lint: all gates on the source, one after the other; stops at the first that does not hold.
import { fileURLToPath } from 'node:url';
import { ensureModules, run } from './setup.mjs';

const gates = [
	['the core is pure', 'node_modules/typescript/bin/tsc', '-p', 'tsconfig.core.json'],
	[
		'types',
		'node_modules/svelte-check/bin/svelte-check',
		'--tsconfig',
		'./tsconfig.json',
		'--fail-on-warnings',
		'--output',
		'human'
	],
	[
		'imports',
		'node_modules/dependency-cruiser/bin/dependency-cruise.mjs',
		'src',
		'standins',
		'--config',
		'.dependency-cruiser.cjs',
		'--output-type',
		'err'
	],
	['code', 'node_modules/eslint/bin/eslint.js', '.', '--max-warnings', '0'],
	['format', 'node_modules/prettier/bin/prettier.cjs', '--check', '--log-level', 'warn', '.']
];

/** Runs every gate. */
export function lint() {
	ensureModules();
	run(process.execPath, ['node_modules/@sveltejs/kit/svelte-kit.js', 'sync'], { quiet: true });
	for (const [name = '', file = '', ...args] of gates) {
		console.log(`[lint] ${name}`);
		run(process.execPath, [file, ...args]);
	}
}

if (process.argv[1] === fileURLToPath(import.meta.url)) lint();
