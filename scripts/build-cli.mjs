// Builds the command and the stand-ins into dist/. The command stands there twice: as modules that are loaded when they are
// needed, and as one program with V8's code of it, which starts in half the time (docs/decisions/0028).
import { build } from 'esbuild';
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { chmodSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { alias, nodeWorkerEsbuild } from './node-worker.mjs';
import { AROUND, programFile } from './program.mjs';
import { root } from './setup.mjs';

const dist = join(root, 'dist');
const { version } = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8'));
/** @satisfies {import('esbuild').BuildOptions} */
const common = {
	absWorkingDir: root,
	outdir: 'dist',
	bundle: true,
	plugins: [nodeWorkerEsbuild()],
	platform: /** @type {const} */ ('node'),
	target: 'node20.19',
	minify: true,
	// keeping names costs a call for every closure that is made, a tenth of a run's time
	legalComments: /** @type {const} */ ('none'),
	alias,
	external: ['sqlite3', 'fastify', '@fastify/multipart', 'sequelize'],
	write: /** @type {const} */ (false),
	logLevel: /** @type {const} */ ('warning')
};
const define = { __APP_VERSION__: JSON.stringify(version) };

/** @param {{ outputFiles: { text: string }[] }} built */
const onlyText = ({ outputFiles }) => outputFiles[0]?.text ?? '';

rmSync(dist, { recursive: true, force: true });
mkdirSync(join(dist, 'chunks'), { recursive: true });

const SHEBANG = '#!/usr/bin/env node\n';
const REQUIRE = "import { createRequire as __cr } from 'node:module'; const require = __cr(import.meta.url);\n";
const modules = await build({
	...common,
	entryPoints: { main: 'src/cli/main.ts', standins: 'standins/main.ts' },
	chunkNames: 'chunks/[name]-[hash]',
	splitting: true,
	format: 'esm',
	define
});
for (const { path, text } of modules.outputFiles) {
	// packages that ask for others by require; making it takes a millisecond, and most files do not
	const asks = /\brequire\b/.test(text);
	writeFileSync(path, `${path.endsWith('standins.js') ? SHEBANG : ''}${asks ? REQUIRE : ''}${text}`);
}

const program = await build({
	...common,
	entryPoints: ['src/cli/main.ts'],
	format: 'cjs',
	supported: { 'dynamic-import': false },
	define: { ...define, 'import.meta.url': '__programUrl' }
});
const text = AROUND.before + onlyText(program) + AROUND.after;
const hash = createHash('sha256').update(text).digest('hex').slice(0, 12);
writeFileSync(programFile(dist, hash), text);

const entry = await build({
	...common,
	entryPoints: { cli: 'scripts/entry.mjs' },
	format: 'esm',
	define: { __PROGRAM__: JSON.stringify(hash) }
});
writeFileSync(join(dist, 'cli.js'), SHEBANG + onlyText(entry));
chmodSync(join(dist, 'cli.js'), 0o755);

// nothing of our environment: a run that finds a server, secrets or a build system there would speak to it
const env = Object.fromEntries(
	['PATH', 'HOME', 'TMPDIR', 'TEMP', 'SystemRoot'].flatMap((name) =>
		process.env[name] ? [[name, process.env[name]]] : []
	)
);
const kept = spawnSync(process.execPath, [join(root, 'scripts/keep-code.mjs'), dist, hash], { encoding: 'utf8', env });
if (kept.status !== 0) throw new Error(`the command does not run: ${kept.stdout}${kept.stderr}`);
