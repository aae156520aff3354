// npm test: installs what it needs, then every gate and every test; with --again the tests alone.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, relative } from 'node:path';
import { stripVTControlCharacters } from 'node:util';
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
/** @param {string} message */
const firstLines = (message) => {
	const lines = stripVTControlCharacters(message).split('\n');
	return lines
		.filter((line) => !line.includes('node_modules'))
		.slice(0, 12)
		.join('\n    ')
		.trimEnd();
};
/** What failed in a file of unit tests. @param {any} file @returns {string[]} */
function failedUnits({ name, status, message, assertionResults }) {
	const tests = assertionResults.filter((/** @type {any} */ one) => one.status === 'failed');
	const path = relative(root, name);
	// a file that could not be read has no tests
	if (tests.length === 0) return status === 'failed' ? [`✗ ${path}\n    ${firstLines(message)}`] : [];
	return tests.map(
		(/** @type {any} */ one) => `✗ ${path} › ${one.fullName}\n    ${firstLines(one.failureMessages.join('\n'))}`
	);
}
/** What failed in a group of web tests. @param {any} group @returns {string[]} */
function failedSpecs({ specs, suites = [] }) {
	const failed = specs.filter((/** @type {any} */ spec) => !spec.ok);
	const lines = failed.map((/** @type {any} */ { file, line, title, tests }) => {
		const error = tests
			.flatMap((/** @type {any} */ one) => one.results)
			.find((/** @type {any} */ one) => one.error)?.error;
		return `✗ tests/web/${file}:${line} › ${title}\n    ${firstLines(error?.message ?? '')}`;
	});
	return [...lines, ...suites.flatMap(failedSpecs)];
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
// the output is long: what failed stands at its end once more
const failures = [...unit.report.testResults.flatMap(failedUnits), ...web.report.suites.flatMap(failedSpecs)];
for (const one of failures) console.log(`\n${one}`);
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(unit.ok && web.ok ? 0 : 1);
