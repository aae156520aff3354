// npm run lint: all gates on the source, as many at a time as there are cores; says what each of them found.
import { spawn } from 'node:child_process';
import { availableParallelism } from 'node:os';
import { fileURLToPath } from 'node:url';
import { ensureModules, root, run } from './setup.mjs';

// what takes longest comes first
const gates = [
	['code', 'node_modules/eslint/bin/eslint.js', '.', '--max-warnings', '0'],
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
		'format',
		'node_modules/prettier/bin/prettier.cjs',
		'--check',
		'--log-level',
		'warn',
		'--cache',
		'--cache-strategy',
		'content',
		'--cache-location',
		'node_modules/.cache/lint/prettier',
		'.'
	],
	['the core is pure', 'node_modules/typescript/bin/tsc', '-p', 'tsconfig.core.json'],
	[
		'imports',
		'node_modules/dependency-cruiser/bin/dependency-cruise.mjs',
		'src',
		'standins',
		'--config',
		'.dependency-cruiser.mjs',
		'--output-type',
		'err'
	],
	['what nobody uses', 'node_modules/knip/bin/knip.js', '--no-progress', '--treat-config-hints-as-errors']
];

/** @param {string[]} gate @returns {Promise<boolean>} whether it holds */
const holds = ([name = '', ...args]) =>
	new Promise((resolve) => {
		const began = performance.now();
		const child = spawn(process.execPath, args, { cwd: root, stdio: ['ignore', 'pipe', 'pipe'] });
		let said = '';
		for (const stream of [child.stdout, child.stderr]) stream.setEncoding('utf8').on('data', (text) => (said += text));
		child.on('close', (code) => {
			const seconds = Math.round((performance.now() - began) / 1000);
			console.log(`[lint] ${name}: ${code === 0 ? 'holds' : 'does not hold'} (${seconds} s)`);
			if (code !== 0) console.log(said);
			resolve(code === 0);
		});
	});

/** Runs every gate; ends the program when one does not hold. */
export async function lint() {
	ensureModules();
	run(process.execPath, ['node_modules/@sveltejs/kit/svelte-kit.js', 'sync'], { quiet: true });
	const waiting = [...gates];
	let sound = true;
	const work = async () => {
		for (let gate = waiting.shift(); gate; gate = waiting.shift()) sound = (await holds(gate)) && sound;
	};
	await Promise.all(Array.from({ length: Math.max(2, availableParallelism()) }, work));
	if (!sound) process.exit(1);
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await lint();
