import { stringify } from 'yaml';
import { describe, expect, test } from 'vitest';
import type { JsonObject } from '../model/json.ts';
import { createWorkspace, loadDocument, type LoadedDocument, type Workspace } from './index.ts';

const scenario = (id: string, steps: object[], more: object = {}) => ({ id, steps, ...more });
const START: Record<string, JsonObject> = {
	'heron.yaml': { variables: { host: 'a', spare: 1 }, environment: 'local' },
	'environments/local.yaml': { variables: { base: 'http://127.0.0.1:1' }, secrets: ['key'] },
	'connections/one.yaml': { base: '{$env.base}' },
	'credentials/me.yaml': { kind: 'basic', user: 'avery', password: '{$secret.key}' },
	'suites/all.yaml': { scenarios: ['a', 'b/two'] },
	'collections/a.yaml': {
		connection: 'one',
		credential: 'me',
		scenarios: [
			scenario('one', [
				{ id: 'x', send: 'GET /{$env.host}', keep: { id: '$.id' } },
				{ id: 'y', call: 'b/two', with: { nights: 1 } },
				{ id: 'z', send: 'GET /{$steps.y.place}', rows: undefined }
			])
		]
	},
	'collections/b.yaml': {
		connection: 'one',
		scenarios: [
			scenario(
				'two',
				[{ id: 'p', send: 'GET /p', keep: { place: '$.place' }, checks: [{ baseline: 'place' }, { contract: true }] }],
				{ inputs: { nights: null } }
			),
			scenario('three', [{ id: 'q', call: 'c/four' }])
		]
	},
	'collections/c.yaml': {
		connection: 'one',
		scenarios: [
			scenario('four', [
				{ id: 'r', send: 'GET /r', keep: { left: '$.x' }, checks: [{ schema: 'schemas/gone.json' }] },
				{ id: 's', each: 'places', send: 'GET /{$row.x}' }
			])
		]
	}
} as unknown as Record<string, JsonObject>;

const shown = ({ problems, warnings }: Workspace) =>
	[...problems, ...warnings].map(({ file, line, message }) => `${file}:${line ?? ''} ${message}`);

describe('what was looked at before is looked at again where it, or what it depends on, is another one', () => {
	type Change = (texts: Map<string, string>, files: Set<string>) => void;
	const write =
		(path: string, change: (value: JsonObject) => unknown): Change =>
		(texts) => {
			const value = structuredClone(START[path] ?? {});
			change(value);
			texts.set(path, stringify({ heron: 1, ...value }));
		};
	const changes: [string, Change, RegExp][] = [
		['nothing', () => {}, /schemas\/gone\.json/],
		['a connection gets another name', (texts) => void texts.delete('connections/one.yaml'), /connection.*"?one"?/],
		['nothing is approved or defined', () => {}, /no baseline place yet[\s\S]*definitions\/ holds none/],
		['an answer is approved', (_, files) => void files.add('baselines/place@local.json'), /^(?![\s\S]*no baseline)/],
		['a definition comes', (_, files) => void files.add('definitions/places.yaml'), /^(?![\s\S]*holds none)/],
		['a dataset comes', (_, files) => void files.add('datasets/places.csv'), /^(?![\s\S]*places)/],
		['a schema comes', (_, files) => void files.add('schemas/gone.json'), /^(?![\s\S]*gone\.json)/],
		[
			'a scenario that is called keeps something else',
			write('collections/b.yaml', (value) => {
				(value.scenarios as never as { steps: { keep: object }[] }[])[0]!.steps[0]!.keep = { somewhere: '$.x' };
			}),
			/value kept by y as/
		],
		[
			'a scenario that is called wants another input',
			write('collections/b.yaml', (value) => {
				(value.scenarios as never as { inputs: object }[])[0]!.inputs = { days: null };
			}),
			/wants a value for days/
		],
		['a collection that is called goes', (texts) => void texts.delete('collections/c.yaml'), /c\/four/],
		[
			'calls lead back to where they came from',
			write('collections/c.yaml', (value) => {
				(value.scenarios as never as { steps: object[] }[])[0]!.steps.push({ id: 't', call: 'b/three' });
			}),
			/leads back to itself: b\/three → c\/four → b\/three/
		],
		['a variable is used no more', write('collections/a.yaml', (value) => void (value.scenarios = [])), /host/],
		['nobody calls a scenario any more', (texts) => void texts.delete('collections/b.yaml'), /left/],
		[
			'a collection has no connection any more',
			write('collections/a.yaml', (value) => void delete value.connection),
			/collections\/a\.yaml:\d+ \/\{\$env\.host\} goes nowhere/
		],
		[
			'a suite gets the name of a collection',
			write('suites/c.yaml', (value) => void (value.scenarios = ['a'])),
			/suites\/c\.yaml:1 a collection is called c, too/
		],
		['an environment goes', (texts) => void texts.delete('environments/local.yaml'), /environment.*"?local"?/]
	];
	const files0 = ['files/x.pdf'];
	test.each(changes)('%s', (_, change, expected) => {
		const texts = new Map(Object.entries(START).map(([path, value]) => [path, stringify({ heron: 1, ...value })]));
		const files = new Set(files0);
		const documents = new Map<string, LoadedDocument>();
		for (const [path, text] of texts) documents.set(path, loadDocument(path, text)!);
		const now = () => createWorkspace([...documents.values()], new Set([...files, ...documents.keys()]));
		const before = shown(now());
		const given = new Map(texts);
		change(texts, files);
		for (const path of given.keys()) if (!texts.has(path)) documents.delete(path);
		for (const [path, text] of texts) if (given.get(path) !== text) documents.set(path, loadDocument(path, text)!);
		const after = shown(now());
		const fresh = shown(
			createWorkspace(
				[...texts].map(([path, text]) => loadDocument(path, text)!),
				new Set([...files, ...texts.keys()])
			)
		);
		expect([...after].sort()).toEqual([...fresh].sort());
		expect(after.join('\n')).toMatch(expected);
		// and back
		for (const path of texts.keys()) if (!given.has(path)) documents.delete(path);
		texts.clear();
		for (const [path, text] of given) documents.set(path, loadDocument(path, text)!);
		files.clear();
		for (const file of files0) files.add(file);
		expect(shown(now()).sort()).toEqual(before.sort());
	});
	test('what nothing changed for is not looked at again', () => {
		const documents = Object.entries(START).map(([path, value]) =>
			loadDocument(path, stringify({ heron: 1, ...value }))!
		);
		const files = new Set(documents.map(({ path }) => path));
		const first = createWorkspace(documents, files);
		const again = createWorkspace(documents, files);
		expect(again.collections.get('a')).toBe(first.collections.get('a'));
		const broken = (workspace: Workspace) => workspace.problems.find(({ message }) => message.includes('gone.json'));
		expect(broken(again)).toBe(broken(first));
	});
});

describe('a schema of the project that is none', () => {
	const messagesOf = (path: string, text: string) => {
		const bytes = new TextEncoder().encode(text);
		return createWorkspace([], new Set([path]), (asked) => (asked === path ? bytes : undefined)).problems.map(
			({ code, file, line, column, message }) => `${code} ${file}:${line}:${column} ${message}`
		);
	};
	test.each([
		['JSON that ends early', 'schemas/a.json', '{\n "type": ', /^schema\.wrong schemas\/a\.json:2:10 .*it ends early/],
		['a list', 'schemas/a.json', '[]', /:1:1 .*a JSON Schema is an object, or true or false/],
		['XML that is not well-formed', 'schemas/a.xsd', '<a>\n<b></a>', /a\.xsd:2:\d+ .*unexpected close tag/],
		['another document', 'schemas/a.xsd', '<a/>', /:1:1 .*its root is a, and schema of/]
	])('is told with its place: %s', (_, path, text, message) => {
		expect(messagesOf(path, text)).toEqual([expect.stringMatching(message)]);
	});
	test.each([
		['true', 'schemas/a.json', 'true'],
		['an object', 'schemas/a.json', '\uFEFF{"type":"object"}'],
		['XSD', 'schemas/a.xsd', '<s:schema xmlns:s="http://www.w3.org/2001/XMLSchema"/>'],
		['what is no schema by its name', 'schemas/readme.txt', 'hello']
	])('%s is sound', (_, path, text) => {
		expect(messagesOf(path, text)).toEqual([]);
	});
});

test('whatever was written last, documents stand in the order of their files', () => {
	const documents = Object.entries(START).map(([path, value]) =>
		loadDocument(path, stringify({ heron: 1, ...value }))!
	);
	const first = createWorkspace(documents, new Set());
	const turned = createWorkspace(documents.toReversed(), new Set());
	expect([...turned.collections.keys()]).toEqual(['a', 'b', 'c']);
	expect(shown(turned)).toEqual(shown(first));
});
