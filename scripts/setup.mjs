// Node built-ins only: this runs before node_modules exists. Import from it, or run it.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { copyFileSync, existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = resolve(dirname(fileURLToPath(import.meta.url)), '..');
/** @param {string} text */
const say = (text) => console.log(`[setup] ${text}`);

/**
 * Runs a program in the project's folder and stops this one when it fails.
 * @param {string} command
 * @param {string[]} args
 * @param {{ env?: Record<string, string>, allowFail?: boolean, quiet?: boolean }} [options]
 */
export function run(command, args, { env = {}, allowFail = false, quiet = false } = {}) {
	const out = quiet ? 'ignore' : 'inherit';
	const done = spawnSync(command, args, { cwd: root, stdio: ['ignore', out, out], env: { ...process.env, ...env } });
	if (done.status !== 0 && !allowFail) {
		console.error(
			`[setup] failed (${done.error?.message ?? done.signal ?? done.status}): ${command} ${args.join(' ')}`
		);
		process.exit(done.status || 1);
	}
	return done.status === 0;
}

/**
 * @param {string[]} args
 * @param {Parameters<typeof run>[2]} [options]
 */
const npm = (args, options) =>
	process.env.npm_execpath?.endsWith('.js')
		? run(process.execPath, [process.env.npm_execpath, ...args], options)
		: run('npm', args, options);

const sqliteLoads = () =>
	run(
		process.execPath,
		['-e', "new (require('sqlite3').Database)(':memory:').get('select 1', e => process.exit(e ? 1 : 0))"],
		{ allowFail: true, quiet: true }
	);

// sqlite3 ships no binary for everyone: it is compiled once and kept in the user's cache.
function ensureSqlite() {
	const version = JSON.parse(readFileSync(join(root, 'node_modules/sqlite3/package.json'), 'utf8')).version;
	const system = process.platform === 'linux' && existsSync('/usr/include/sqlite3.h');
	const binary = join(root, 'node_modules/sqlite3/build/Release/node_sqlite3.node');
	const cacheDir = join(process.env.XDG_CACHE_HOME || join(homedir(), '.cache'), 'loyal-heron');
	const source = system ? 'system' : 'bundled';
	const cached = join(
		cacheDir,
		`sqlite3-${version}-${process.platform}-${process.arch}-abi${process.versions.modules}-${source}.node`
	);
	mkdirSync(dirname(binary), { recursive: true });
	if (existsSync(cached)) {
		copyFileSync(cached, binary);
		if (sqliteLoads()) return say('sqlite3: binary from the cache');
	}
	const start = performance.now();
	say('sqlite3: compiling, once (up to two minutes)');
	npm(['rebuild', 'sqlite3', '--foreground-scripts=false', '--loglevel=error'], {
		env: system ? { npm_config_sqlite: '/usr' } : { CFLAGS: '-O1 -w', MAKEFLAGS: '-j2' }
	});
	if (!sqliteLoads()) {
		console.error('[setup] sqlite3 was compiled but does not load: a C++ compiler, make and python3 are needed');
		process.exit(1);
	}
	say(`sqlite3: compiled in ${((performance.now() - start) / 1000).toFixed(0)} s`);
	try {
		mkdirSync(cacheDir, { recursive: true });
		copyFileSync(binary, `${cached}.${process.pid}`);
		renameSync(`${cached}.${process.pid}`, cached);
	} catch (error) {
		say(`sqlite3: not cached (${error instanceof Error ? error.message : error})`);
	}
}

/** Installs the packages when the lockfile or Node changed since the last time. */
export function ensureModules() {
	const [major = 0, minor = 0] = process.versions.node.split('.').map(Number);
	if (major < 20 || (major === 20 && minor < 19)) {
		console.error(`[setup] Node 20.19 or later is needed, this is ${process.version}`);
		process.exit(1);
	}
	const stamp = join(root, 'node_modules/.setup-stamp');
	const want = createHash('sha256')
		.update(readFileSync(join(root, 'package-lock.json')))
		.update(process.versions.modules)
		.digest('hex');
	if (existsSync(stamp) && readFileSync(stamp, 'utf8') === want) return;
	say('installing packages');
	// --include=dev: NODE_ENV=production or an inherited omit=dev would leave the tools out
	npm(['ci', '--ignore-scripts', '--include=dev', '--no-audit', '--no-fund', '--loglevel=error']);
	ensureSqlite();
	run(process.execPath, ['node_modules/@sveltejs/kit/svelte-kit.js', 'sync']);
	writeFileSync(stamp, want);
}

const SHELL = '/usr/bin/chromium-headless-shell';
/** Where Chromium is, the one without windows first; undefined when there is none. The same serves tests, pictures and bench. */
export const findChromium = () =>
	[process.env.CHROMIUM_PATH, SHELL, '/usr/bin/chromium', '/usr/bin/chromium-browser'].find(
		(path) => path && existsSync(path)
	);

/** Installs Debian's Chromium without windows, which takes two thirds of the time of the whole one; returns what there is. */
export function ensureChromium() {
	const found = findChromium();
	if (found && found === process.env.CHROMIUM_PATH) return found;
	if (!existsSync(SHELL) && !install('chromium-headless-shell') && !found) install('chromium');
	const path = findChromium();
	if (path) return path;
	console.error('[setup] Chromium is needed for the browser tests: install it, or set CHROMIUM_PATH');
	process.exit(1);
}

/**
 * Finds Apache httpd, an independent server that credentials are tried against, or installs Debian's.
 * Where neither works, its tests say that they were left out.
 */
export function ensureHttpd() {
	const known = [process.env.HTTPD_PATH, '/usr/sbin/apache2'];
	const found = known.find((path) => path && existsSync(path));
	if (found) return found;
	return install('apache2-bin') ? '/usr/sbin/apache2' : '';
}

let listed = false;
/** Installs a package of Debian; says whether it is there. @param {string} name */
function install(name) {
	if (process.getuid?.() !== 0 || !existsSync('/usr/bin/apt-get')) return false;
	say(`installing ${name}`);
	const env = { DEBIAN_FRONTEND: 'noninteractive' };
	const lock = ['-o', 'DPkg::Lock::Timeout=300', '-qq'];
	listed ||= run('apt-get', [...lock, 'update'], { env, allowFail: true });
	return run('apt-get', [...lock, 'install', '-y', '--no-install-recommends', name], { env, allowFail: true });
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
	ensureModules();
	if (process.argv.includes('--browser')) {
		ensureChromium();
		ensureHttpd();
	}
}
