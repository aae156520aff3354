import { join } from 'node:path';
import { build } from 'esbuild';
import { alias, nodeWorkerEsbuild } from './node-worker.mjs';
import { root } from './setup.mjs';

/**
 * Bundles a TypeScript file into a program below the project, so that packages are found by their names.
 * @param {string} entry path from the project @param {string} name of the program
 */
export async function bundleProgram(entry, name) {
	const outfile = join(root, 'node_modules/.cache', `${name}.mjs`);
	await build({
		absWorkingDir: root,
		entryPoints: [entry],
		outfile,
		bundle: true,
		platform: 'node',
		format: 'esm',
		alias,
		plugins: [nodeWorkerEsbuild()],
		external: ['sqlite3', 'sequelize', 'umzug', 'libxml2-wasm'],
		// packages that ask for others by require
		banner: {
			js: `import { createRequire as requireFrom } from 'node:module'; const require = requireFrom(${JSON.stringify(join(root, 'x.js'))});`
		},
		logLevel: 'error'
	});
	return outfile;
}
