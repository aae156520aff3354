// Builds the application and the command when their sources changed since the last time.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { ensureModules, root, run } from './setup.mjs';

/** @param {string} dir @returns {string[]} */
function sources(dir) {
	return readdirSync(join(root, dir), { withFileTypes: true }).flatMap((entry) => {
		const path = join(dir, entry.name);
		if (entry.isDirectory()) return sources(path);
		return /\.test\.ts$/.test(entry.name) ? [] : [path];
	});
}

function fingerprint() {
	const hash = createHash('sha256');
	const single = [
		'package-lock.json',
		'package.json',
		'vite.config.ts',
		'svelte.config.js',
		'scripts/build-cli.mjs',
		'scripts/entry.mjs',
		'scripts/keep-code.mjs',
		'scripts/program.mjs',
		'scripts/node-worker.mjs'
	];
	for (const path of [...single, ...['src', 'standins', 'static'].flatMap(sources)].sort())
		hash.update(path).update(readFileSync(join(root, path)));
	return hash.digest('hex');
}

/** Builds what is out of date. */
export function ensureBuilt() {
	ensureModules();
	const stamp = join(root, 'build/.stamp');
	const want = fingerprint();
	if (existsSync(stamp) && existsSync(join(root, 'dist/cli.js')) && readFileSync(stamp, 'utf8') === want) return;
	console.log('[build] building the application and the command');
	// what the tools say on the way helps nobody unless they fail
	const vite = spawnSync(process.execPath, ['node_modules/vite/bin/vite.js', 'build', '--logLevel', 'error'], {
		cwd: root,
		encoding: 'utf8'
	});
	if (vite.status !== 0) {
		console.error(vite.stdout + vite.stderr);
		process.exit(1);
	}
	run(process.execPath, ['scripts/build-cli.mjs']);
	writeFileSync(stamp, want);
}

if (process.argv[1] === fileURLToPath(import.meta.url)) ensureBuilt();
