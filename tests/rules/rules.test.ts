import { credentialKinds } from '#core/auth/index.ts';
import { answerBodies, bodyKinds } from '#core/bodies/index.ts';
import { checkKinds, relationKinds, requestChecks } from '#core/checks/index.ts';
import { faultKinds } from '#core/stand-in/index.ts';
import { stepRules } from '#core/lint/index.ts';
import { messageCodes, didYouMean } from '#core/messages.ts';
import { documentKinds } from '#core/documents/kinds.ts';
import { diagnosisCodes } from '#core/reach/index.ts';
import { reportKinds } from '#core/reports/index.ts';
import { selectorKinds } from '#core/selectors/index.ts';
import { stepKinds } from '#core/steps/index.ts';
import { functions } from '#core/values/index.ts';
import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { gunzipSync } from 'node:zlib';
import { describe, expect, test } from 'vitest';
import { parse as parseYaml } from 'yaml';
import { commands } from '../../src/cli/commands.ts';

const root = fileURLToPath(new URL('../..', import.meta.url));
const read = (path: string) => readFileSync(root + path, 'utf8');
const tracked = execFileSync('git', ['ls-files', '--cached', '--others', '--exclude-standard'], {
	cwd: root,
	encoding: 'utf8'
})
	.split('\n')
	.filter((path) => path && existsSync(root + path));

describe('every kind is listed', () => {
	const listed: Record<string, unknown[]> = {
		auth: [...credentialKinds],
		bodies: [...bodyKinds, ...answerBodies],
		checks: [...checkKinds, ...requestChecks],
		'checks/relations': [...relationKinds],
		selectors: [...selectorKinds],
		steps: [...stepKinds],
		reports: [...reportKinds]
	};
	const plain = new Set([
		...['kind', 'kinds', 'index', 'relation', 'relations', 'sentence', 'console', 'read-json', 'annotations'],
		...['challenge', 'token', 'page', 'values', 'flag', 'judge', 'parse', 'step', 'references', 'data', 'check']
	]);
	test.each(Object.entries(listed))('src/core/%s', async (folder, kinds) => {
		for (const file of readdirSync(`${root}src/core/${folder}`).filter(
			(name) => name.endsWith('.ts') && !name.endsWith('.test.ts')
		)) {
			if (plain.has(file.replace('.ts', ''))) continue;
			const found = Object.values((await import(`../../src/core/${folder}/${file}`)) as object).filter((value) =>
				kinds.includes(value)
			);
			expect(found.length, file).toBeGreaterThan(0);
		}
	});
});

describe('the manual speaks of everything', () => {
	test.each<[string, string[]]>([
		[
			'docs/checks.md',
			[
				...checkKinds.map((k) => `\`${k.key}\``),
				...relationKinds.map((k) => `\`${k.name}\``),
				...selectorKinds.map((k) => k.example)
			]
		],
		[
			'docs/values.md',
			[...functions.list.map((f) => `$${f.name}(`), ...functions.fakeKinds.map((k) => `$fake.${k}()`)]
		],
		['docs/stand-ins.md', [...requestChecks, ...faultKinds, ...answerBodies].map(({ key }) => `\`${key}\``)],
		['docs/compose.md', [...bodyKinds.map((k) => `\`${k.key}\``), ...stepKinds.map((k) => `\`${k.key}\``)]],
		['docs/credentials.md', credentialKinds.flatMap((k) => [`\`${k.key}\``, ...k.fields.map((f) => `\`${f.name}\``)])],
		[
			'docs/lint.md',
			[
				...stepRules.map((rule) => rule.doc),
				...messageCodes.filter((code) => code.startsWith('lint.')).map((code) => `\`${code}\``)
			]
		],
		['docs/reach.md', diagnosisCodes.map((code) => `\`${code}\``)],
		['docs/files.md', documentKinds.map((k) => `\`${k.name}\``)],
		['docs/command.md', commands.flatMap((c) => [`heron ${c.name}`, ...Object.keys(c.options).map((o) => `--${o}`)])],
		['docs/command.md', reportKinds.map((k) => k.key)]
	])('%s', (file, words) => {
		const text = read(file);
		expect(words.filter((word) => !text.includes(word))).toEqual([]);
	});
	test('its links lead somewhere, and the README shows every picture', () => {
		for (const file of tracked.filter((path) => path.endsWith('.md'))) {
			const folder = file.includes('/') ? file.slice(0, file.lastIndexOf('/') + 1) : '';
			for (const [, link] of read(file).matchAll(/\]\(([^)#]+)\)/g)) {
				if (!/^https?:/.test(link!)) expect(existsSync(root + folder + link!), `${file}: ${link}`).toBe(true);
			}
		}
		for (const picture of readdirSync(`${root}docs/screenshots`))
			expect(read('README.md')).toContain(`docs/screenshots/${picture}`);
	});
});

describe('messages', () => {
	test.each([
		['titel', ['title', 'tags'], ': did you mean "title"?'],
		['xyz', ['title', 'tags'], '; known are tags, title'],
		['xyz', [], '']
	])('the nearest of %s', (name, known, wanted) => {
		expect(didYouMean(name, known)).toBe(wanted);
	});
});

test('the lockfile holds no download addresses, and no file a path of somebody’s machine', () => {
	expect(read('package-lock.json')).not.toContain('"resolved": "http');
	for (const path of tracked.filter((file) => /\.(ts|mjs|svelte|md|json|yaml|css)$/.test(file))) {
		expect(read(path), path).not.toMatch(/(^|[\s"'`(])\/(home|Users|root)\/\w/);
	}
});

describe('the demo’s past', () => {
	const lines = gunzipSync(readFileSync(join(root, 'demo/past.jsonl.gz')))
		.toString('utf8')
		.trim()
		.split('\n');
	test('speaks of steps that the demo has', () => {
		const known = new Set(
			readdirSync(join(root, 'demo/reedmere/collections')).flatMap((file) => {
				const { scenarios } = parseYaml(readFileSync(join(root, 'demo/reedmere/collections', file), 'utf8')) as {
					scenarios: { id: string; steps: { id: string }[] }[];
				};
				return scenarios.flatMap(({ id, steps }) =>
					steps.map((step) => `${file.replace('.yaml', '')}/${id} ${step.id}`)
				);
			})
		);
		const reported = lines.flatMap((line) =>
			(JSON.parse(line) as { batch: { results: { scenario: string; step: string }[] } }).batch.results.map(
				({ scenario, step }) => `${scenario} ${step}`
			)
		);
		expect(reported.length).toBeGreaterThan(500);
		expect([...new Set(reported)].filter((one) => !known.has(one))).toEqual([]);
	});
	test('holds no secret, and nothing of the machine on which it was made', () => {
		const text = lines.join('\n');
		const secrets = parseYaml(readFileSync(join(root, 'demo/secrets.yaml'), 'utf8')) as Record<string, string>;
		for (const [name, value] of Object.entries(secrets)) expect(text.includes(String(value)), name).toBe(false);
		expect(text).not.toMatch(/\/(home|root|tmp|Users)\//);
	});
});

test('a table that is looked up by a word has nothing under the words that every object knows', () => {
	const wrong: string[] = [];
	for (const path of tracked.filter((one) => /^src\/.*\.(ts|svelte)$/.test(one) && !one.endsWith('.test.ts'))) {
		const text = read(path);
		for (const [, name] of text.matchAll(/const ([A-Z][A-Z_]+): (?:Readonly<)?Record<string, [^=]*?>+ = /g))
			for (const [index, line] of text.split('\n').entries())
				if (new RegExp(`\\b${name}\\[[^\\]']+\\]`).test(line) && !line.includes(`hasOwn(${name}`))
					wrong.push(`${path}:${index + 1}: lookUp(${name}, …) is meant`);
	}
	expect(wrong).toEqual([]);
});
