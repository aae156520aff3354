// npm run mutate [-- PATH…] [--sample N] [--seed S]: changes the code of the core in one place at a time, in a copy, and runs
// the tests that know it. A change that no test notices is told with its place: either a test is missing, or the code is not needed.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, relative } from 'node:path';
import { parseArgs } from 'node:util';
import ts from 'typescript';
import { ensureModules, root } from './setup.mjs';

/** A run of tests that takes longer has noticed the change by never ending. */
const LONGEST_MS = 90_000;

/** @typedef {{ file: string, line: number, start: number, end: number, before: string, after: string }} Mutant */

const SWAPPED = new Map([
	['<', '<='],
	['<=', '<'],
	['>', '>='],
	['>=', '>'],
	['===', '!=='],
	['!==', '==='],
	['&&', '||'],
	['||', '&&'],
	['+', '-'],
	['-', '+'],
	['*', '/'],
	['/', '*']
]);
const OPPOSITES = new Map([
	['some', 'every'],
	['every', 'some'],
	['min', 'max'],
	['max', 'min'],
	['startsWith', 'endsWith'],
	['endsWith', 'startsWith'],
	['shift', 'pop'],
	['floor', 'ceil'],
	['ceil', 'floor']
]);

/** The places of a file that can be changed, each with its change. @param {string} file @returns {Mutant[]} */
function mutantsOf(file) {
	const text = readFileSync(file, 'utf8');
	const source = ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true);
	/** @type {Mutant[]} */
	const found = [];
	/** @param {ts.Node} node @param {string} after */
	const put = (node, after) => {
		const start = node.getStart(source);
		const { line } = source.getLineAndCharacterOfPosition(start);
		found.push({ file, line: line + 1, start, end: node.end, before: text.slice(start, node.end), after });
	};
	/** @param {ts.Node} node */
	const look = (node) => {
		// types are gone when it runs
		if (ts.isTypeNode(node) || ts.isInterfaceDeclaration(node) || ts.isTypeAliasDeclaration(node)) return;
		if (ts.isBinaryExpression(node)) {
			const sign = node.operatorToken.getText(source);
			const other = SWAPPED.get(sign);
			// texts are joined, and not subtracted
			const text = [node.left, node.right].some((one) => ts.isStringLiteralLike(one) || ts.isTemplateExpression(one));
			if (other && !(sign === '+' && text)) put(node.operatorToken, other);
		} else if (ts.isPrefixUnaryExpression(node) && node.operator === ts.SyntaxKind.ExclamationToken) {
			// a whole condition is turned around where it stands
			const { parent } = node;
			const whole =
				(ts.isIfStatement(parent) && parent.expression === node) ||
				(ts.isConditionalExpression(parent) && parent.condition === node);
			if (!whole) put(node, node.operand.getText(source));
		}
		if (ts.isIfStatement(node)) put(node.expression, `!(${node.expression.getText(source)})`);
		else if (ts.isConditionalExpression(node)) put(node.condition, `!(${node.condition.getText(source)})`);
		else if (node.kind === ts.SyntaxKind.TrueKeyword) put(node, 'false');
		else if (node.kind === ts.SyntaxKind.FalseKeyword) put(node, 'true');
		else if (ts.isNumericLiteral(node) && !ts.isPropertyName(node.parent)) put(node, String(Number(node.text) + 1));
		else if (ts.isCallExpression(node) && ts.isPropertyAccessExpression(node.expression)) {
			const other = OPPOSITES.get(node.expression.name.text);
			if (other) put(node.expression.name, other);
		}
		ts.forEachChild(node, look);
	};
	look(source);
	return found;
}

/** @param {string} path @returns {string[]} */
const filesIn = (path) =>
	statSync(path).isFile()
		? [path]
		: readdirSync(path, { recursive: true, encoding: 'utf8' })
				.filter((name) => /\.ts$/.test(name) && !/\.(test|d)\.ts$/.test(name))
				.map((name) => join(path, name));

/** The same numbers for the same seed (mulberry32). @param {number} seed */
function randomOf(seed) {
	let state = seed >>> 0;
	return () => {
		state = (state + 0x6d2b79f5) >>> 0;
		let t = Math.imul(state ^ (state >>> 15), state | 1);
		t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
		return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
	};
}

const { values, positionals } = parseArgs({
	allowPositionals: true,
	options: { sample: { type: 'string' }, seed: { type: 'string', default: '1' } }
});
ensureModules();
const copy = mkdtempSync(join(tmpdir(), 'heron-mutate-'));
const git = (/** @type {string[]} */ ...args) => spawnSync('git', args, { cwd: root, stdio: 'ignore' });
let [killed, all] = [0, 0];
try {
	rmSync(copy, { recursive: true });
	if (git('worktree', 'add', '--detach', copy).status !== 0) throw new Error('a copy by git worktree is wanted');
	for (const name of ['node_modules', '.svelte-kit']) symlinkSync(join(root, name), join(copy, name));
	const named = positionals.length > 0 ? positionals : ['src/core'];
	const places = named.flatMap((one) => filesIn(join(copy, one))).flatMap(mutantsOf);
	const random = randomOf(Number(values.seed));
	const chosen = values.sample
		? places
				.map((one) => ({ one, at: random() }))
				.sort((a, b) => a.at - b.at)
				.slice(0, Number(values.sample))
				.map(({ one }) => one)
		: places;
	console.log(`[mutate] ${chosen.length} of ${places.length} places, in what was committed last`);
	/** Whether those tests of a part pass that know a file. @param {string} file @param {string} part */
	const passesIn = (file, part) => {
		const { status, signal, stdout, stderr } = spawnSync(
			process.execPath,
			[
				...['node_modules/vitest/vitest.mjs', 'related', relative(copy, file), '--run', '--passWithNoTests'],
				...['--project', part, '--bail', '1', '--reporter', 'dot'],
				// those that drive what was built do not know the change
				...['cli', 'server', 'store', 'standins', 'rules'].flatMap((one) => ['--exclude', `tests/${one}/**`])
			],
			{ cwd: copy, encoding: 'utf8', timeout: LONGEST_MS, killSignal: 'SIGKILL' }
		);
		return { sound: status === 0 && !signal, late: signal !== null, said: stdout + stderr };
	};
	/** The parts whose tests can tell a change of a file: they pass without one, and soon enough. @type {Map<string, string[]>} */
	const partsOf = new Map();
	/** The core's own tests first, which are quick. @param {string} file */
	const partsFor = (file) => {
		const known = partsOf.get(file);
		if (known) return known;
		const parts = ['core', 'parts'].filter((part) => {
			const { sound, late, said } = passesIn(file, part);
			if (!sound && !late)
				throw new Error(`the tests of ${relative(copy, file)} fail without any change:\n${said.slice(-3000)}`);
			return sound;
		});
		partsOf.set(file, parts);
		return parts;
	};
	/** Files that so many tests know that none of their changes is looked at. @type {Set<string>} */
	const left = new Set();
	for (const { file, line, start, end, before, after } of chosen) {
		const parts = partsFor(file);
		if (!parts.includes('core')) {
			left.add(relative(copy, file));
			continue;
		}
		const text = readFileSync(file, 'utf8');
		writeFileSync(file, text.slice(0, start) + after + text.slice(end));
		const noticed = parts.some((part) => !passesIn(file, part).sound);
		writeFileSync(file, text);
		all++;
		if (noticed) killed++;
		else {
			const short = (/** @type {string} */ one) => one.replace(/\s+/g, ' ').slice(0, 60);
			// tests of sockets and servers take too long for what everything needs
			const who = parts.length === 2 ? 'nobody notices' : "the core's own tests do not notice";
			console.log(`[mutate] ${relative(copy, file)}:${line}: ${who} ${short(before)} → ${short(after)}`);
		}
	}
	if (left.size > 0) console.log(`[mutate] left out, known to too many tests: ${[...left].join(', ')}`);
} finally {
	git('worktree', 'remove', '--force', copy);
}
console.log(`[mutate] ${killed} of ${all} changes were noticed`);
