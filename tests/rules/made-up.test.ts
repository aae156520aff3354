import { build } from 'esbuild';
import { cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { alias, nodeWorkerEsbuild } from '../../scripts/node-worker.mjs';

const root = fileURLToPath(new URL('../..', import.meta.url));

/** Where a new kind of each family goes: its file, and the place in a list where it is named. */
interface Place {
	file: string;
	list: string;
	/** What stands before the new entry. */
	before: string;
	entry: string;
	/** Further places, with the reason in the table of docs/decisions/0032. */
	also?: { file: string; before: string; entry: string }[];
}
const name = 'madeUp';
const places: Record<string, Place> = {
	step: { file: 'core/steps/tide.ts', list: 'core/steps/kinds.ts', before: 'const kinds = [', entry: `${name}, ` },
	check: {
		file: 'core/checks/vowels.ts',
		list: 'core/checks/kinds.ts',
		before: 'const ofReplies = [',
		entry: `${name}, `
	},
	relation: {
		file: 'core/checks/relations/even.ts',
		list: 'core/checks/relations/index.ts',
		before: 'relationKinds: readonly RelationKind[] = [',
		entry: `${name}, `
	},
	credential: {
		file: 'core/auth/flag-of-boat.ts',
		list: 'core/auth/kinds.ts',
		before: 'credentialKinds: readonly CredentialKind[] = [',
		entry: `${name}, `
	},
	body: {
		file: 'core/bodies/reversed.ts',
		list: 'core/bodies/index.ts',
		before: 'const kinds = [',
		entry: `${name}, `
	},
	rule: {
		file: 'core/project/rules/one-scenario.ts',
		list: 'core/project/rules/index.ts',
		before: 'collectionRules: readonly CollectionRule[] = [',
		entry: `${name}, `
	},
	'step-rule': {
		file: 'core/lint/loud.ts',
		list: 'core/lint/rules.ts',
		before: 'stepRules: readonly StepRule[] = [',
		entry: `${name}, `
	},
	report: {
		file: 'core/reports/count.ts',
		list: 'core/reports/index.ts',
		before: 'reportKinds: readonly ReportKind[] = [',
		entry: `${name}, `
	},
	definition: {
		file: 'core/definitions/formats/timetable.ts',
		list: 'core/definitions/formats/index.ts',
		before: 'definitionFormats: readonly DefinitionFormat[] = [',
		entry: `${name}, `
	},
	function: {
		file: 'core/values/functions/knots.ts',
		list: 'core/values/functions/index.ts',
		before: 'const list: ExpressionFunction[] = [',
		entry: `...${name}, `
	},
	dataset: {
		file: 'server/engine/datasets/berths.ts',
		list: 'server/engine/datasets/index.ts',
		before: '	...{ csv, ',
		entry: "berths: async () => (await import('./berths.ts')).openMadeUp, ",
		also: [{ file: 'core/model/rows.ts', before: 'DATASET_ENDINGS = [', entry: "'berths', " }]
	},
	command: {
		file: 'cli/hail.ts',
		list: 'cli/commands.ts',
		before: 'commands: readonly Command[] = [',
		entry:
			"{ name: 'hail', takes: 'NAME', doc: 'hails', options: { loud: { doc: 'louder' } }, load: async () => (await import('./hail.ts')).madeUp }, "
	}
};

const into = join(root, 'node_modules/.cache');
mkdirSync(into, { recursive: true });
const copy = mkdtempSync(join(into, 'made-up-'));
const put = (path: string, before: string, entry: string, line = '') => {
	const full = join(copy, 'src', path);
	const text = readFileSync(full, 'utf8');
	if (!text.includes(before)) throw new Error(`${path} has no "${before}"`);
	writeFileSync(full, line + text.replace(before, `${before}${entry}`));
};
let program: typeof import('./made-up/program.ts');

beforeAll(async () => {
	for (const path of [
		'package.json',
		'src/core',
		'src/server',
		'src/cli',
		'standins',
		'tests/support',
		'tests/rules/made-up'
	])
		cpSync(join(root, path), join(copy, path), { recursive: true });
	for (const [family, { file, list, before, entry, also = [] }] of Object.entries(places)) {
		cpSync(join(root, `tests/rules/made-up/${family}.ts`), join(copy, 'src', file));
		const from = `./${file.slice(dirname(list).length + 1)}`;
		// what is fetched with the first use is named in its entry
		const line = entry.includes('import(') ? '' : `import { madeUp } from '${from}';\n`;
		put(list, before, entry, line);
		for (const one of also) put(one.file, one.before, one.entry);
	}
	const outfile = join(copy, 'program.mjs');
	await build({
		absWorkingDir: copy,
		entryPoints: ['tests/rules/made-up/program.ts'],
		...{ outfile, bundle: true, platform: 'node', format: 'esm', alias, logLevel: 'error' },
		plugins: [nodeWorkerEsbuild()],
		external: ['sqlite3', 'sequelize', 'umzug', 'libxml2-wasm', 'fastify', '@fastify/multipart'],
		define: { __APP_VERSION__: '"1"' },
		banner: {
			js: `import { createRequire as requireFrom } from 'node:module'; const require = requireFrom(${JSON.stringify(join(root, 'x.js'))});`
		}
	});
	program = (await import(pathToFileURL(outfile).href)) as typeof program;
}, 120_000);
afterAll(() => rmSync(copy, { recursive: true, force: true }));

describe('a kind that is made up is one file and one line of a list', () => {
	test('a step is read, judged, run, and sets what the steps below use', async () => {
		expect(await program.step()).toMatchObject({
			ran: {
				outcomes: ['passed', 'passed'],
				calls: ['tide at {$env.lock}', 'GET /b'],
				url: 'http://h/v1/b?tide=high%20at%20Staithe'
			},
			wrong: ['a place is wanted', expect.stringMatching(/^a step has exactly one of tide, send/)],
			unresolved: [expect.stringContaining('$env.nowhere is not set')],
			offered: true,
			schema: true
		});
	});
	test('a check looks at the reply, with relations that are there', async () => {
		expect(await program.check()).toMatchObject({ outcomes: ['failed'], checks: [['above', '0 vowels', false]] });
	});
	test('a relation judges what a check finds', async () => {
		expect(await program.relation()).toMatchObject({ outcomes: ['passed'], checks: [['even', '4', true]] });
	});
	test('a body is sent', async () => {
		expect(await program.body()).toMatchObject({ outcomes: ['passed'], body: 'ehtiatS' });
	});
	test('a function can be called in expressions', async () => {
		expect(await program.expressionFunction()).toMatchObject({ url: 'http://h/v1/a?knots=10' });
	});
	test('a credential has its fields judged, a secret among them', () => {
		const { wrong, right } = program.credential();
		expect(right).toEqual([]);
		expect(wrong).toHaveLength(2);
	});
	test('rules look at collections, and at steps', () => {
		expect(program.rules()).toEqual(
			expect.arrayContaining(['lint.unchecked scenarios.1', 'lint.json scenarios.0.steps.0.send'])
		);
	});
	test('a report is found by its key', () => {
		expect(program.report()).toBe('1 steps');
	});
	test('a format of definitions is recognised, and planned', () => {
		expect(program.definition()).toEqual({ named: ['other.timetable'], plans: ['lock.timetable'] });
	});
	test('a dataset is opened by its ending', async () => {
		expect(await program.dataset()).toEqual([{ berth: 'A1' }, { berth: 'A2' }]);
	});
	test('a command has its options read', async () => {
		expect(await program.command()).toEqual({ code: 3, said: 'AHOY lock\n' });
	});
});
