import { build } from 'esbuild';
import { chmodSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { alias, nodeWorkerEsbuild } from './node-worker.mjs';
import { root } from './setup.mjs';

// The command and the stand-ins: small entries, everything heavy in chunks that are loaded when needed.
const { version } = JSON.parse(readFileSync(new URL('../package.json', import.meta.url), 'utf8'));
rmSync(`${root}/dist`, { recursive: true, force: true });
const SHEBANG = '#!/usr/bin/env node\n';
const REQUIRE = "import { createRequire as __cr } from 'node:module'; const require = __cr(import.meta.url);\n";
const { outputFiles } = await build({
	absWorkingDir: root,
	entryPoints: { cli: 'src/cli/main.ts', standins: 'standins/main.ts' },
	outdir: 'dist',
	chunkNames: 'chunks/[name]-[hash]',
	bundle: true,
	splitting: true,
	plugins: [nodeWorkerEsbuild()],
	platform: 'node',
	target: 'node20.19',
	format: 'esm',
	minify: true,
	// keeping names costs a call for every closure that is made, a tenth of a run's time
	legalComments: 'none',
	define: { __APP_VERSION__: JSON.stringify(version) },
	alias,
	external: ['sqlite3', 'fastify', '@fastify/multipart', 'sequelize'],
	write: false,
	logLevel: 'warning'
});
mkdirSync(`${root}/dist/chunks`, { recursive: true });
for (const { path, text } of outputFiles) {
	const entry = /dist[\\/]\w+\.js$/.test(path);
	// packages that ask for others by require; making it takes a millisecond, and most files do not
	const asks = /\brequire\b/.test(text);
	writeFileSync(path, `${entry ? SHEBANG : ''}${asks ? REQUIRE : ''}${text}`);
}
chmodSync(`${root}/dist/cli.js`, 0o755);
