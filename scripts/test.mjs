// npm test: installs what it needs, then every gate and every test; with --again the tests alone.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureBuilt } from './build.mjs';
import { lint } from './lint.mjs';
import { ensureChromium, ensureHttpd, ensureModules, root } from './setup.mjs';

ensureModules();
const CHROMIUM_PATH = ensureChromium();
const HTTPD_PATH = ensureHttpd();
if (!process.argv.includes('--again')) await lint();
ensureBuilt();

const dir = mkdtempSync(join(tmpdir(), 'heron-test-'));
/** @param {string} name @param {string[]} args @returns {{ ok: boolean, report: any }} */
function runTests(name, args) {
	const file = join(dir, `${name}.json`);
	console.log(`[test] ${name}`);
	const env = { ...process.env, CHROMIUM_PATH, HTTPD_PATH, PLAYWRIGHT_JSON_OUTPUT_NAME: file };
	const done = spawnSync(
		process.execPath,
		args.map((arg) => arg.replace('{file}', file)),
		{ cwd: root, stdio: ['ignore', 'inherit', 'inherit'], env }
	);
	return { ok: done.status === 0, report: JSON.parse(readFileSync(file, 'utf8')) };
}
const unit = runTests('unit', [
	'node_modules/vitest/vitest.mjs',
	'run',
	'--reporter=default',
	'--reporter=json',
	'--outputFile.json={file}'
]);
const web = runTests('web', ['node_modules/@playwright/test/cli.js', 'test', '--reporter=list,json']);
rmSync(dir, { recursive: true, force: true });

const passed = unit.report.numPassedTests + web.report.stats.expected;
const failed = unit.report.numFailedTests + web.report.stats.unexpected;
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(unit.ok && web.ok ? 0 : 1);
