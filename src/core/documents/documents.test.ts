import Ajv2020 from 'ajv/dist/2020.js';
import { readdirSync, readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { parse, stringify } from 'yaml';
import { bodyKinds } from '../bodies/index.ts';
import { problemLine } from '../errors.ts';
import { stepKinds } from '../steps/index.ts';
import { parseJson, type Json } from '../model/json.ts';
import { documentKinds, fileOf, kindOfFile, schemaOfKind } from './kinds.ts';
import { parseParams, writeParams } from '../model/params.ts';
import { parseDuration, parseSize, showDuration, showSize } from '../model/units.ts';
import { loadDocument, loadProject } from '../project/index.ts';

const collection = (steps: string) => `heron: 1\nscenarios:\n  - id: s\n    steps:\n${steps}`;
const problemsOf = (path: string, text: string) => loadDocument(path, text)!.problems.map(problemLine);
const path = 'collections/x.yaml';

describe('every kind of file', () => {
	const ajv = new Ajv2020({ strict: false });
	test.each(documentKinds.map((kind) => [kind.name, kind] as const))(
		'%s: the example is right, by the parser and by the JSON Schema',
		(name, kind) => {
			expect(problemsOf(fileOf(name, 'example'), stringify(kind.example))).toEqual([]);
			const validate = ajv.compile(schemaOfKind(kind) as object);
			expect(validate(kind.example), JSON.stringify(validate.errors)).toBe(true);
			expect(validate({ ...(kind.example as object), colour: 1 })).toBe(false);
		}
	);
	const demo = new URL('../../../demo/reedmere/', import.meta.url);
	const files = readdirSync(demo, { recursive: true, encoding: 'utf8' }).filter(
		(file) => kindOfFile(file) !== undefined
	);
	test.each(files)('the demo’s %s is right by both', (file) => {
		const text = readFileSync(new URL(file, demo), 'utf8');
		const { kind } = kindOfFile(file)!;
		expect(problemsOf(file, text)).toEqual([]);
		const validate = ajv.compile(schemaOfKind(kind) as object);
		expect(validate(parse(text)), JSON.stringify(validate.errors)).toBe(true);
	});
	test.each(stepKinds.map((kind) => [kind.key, kind] as const))('the example of step %s is right', (_, kind) => {
		expect(
			problemsOf(path, stringify({ heron: 1, scenarios: [{ id: 's', steps: [{ id: 'a', ...kind.example }] }] }))
		).toEqual([]);
	});
	test.each(bodyKinds.map((kind) => [kind.key, kind] as const))('the example of body %s is right', (key, kind) => {
		expect(
			problemsOf(
				path,
				stringify({
					heron: 1,
					scenarios: [{ id: 's', steps: [{ id: 'a', send: 'POST /', body: { [key]: kind.example } }] }]
				})
			)
		).toEqual([]);
	});
});

describe('what is wrong is said with its place and the fix', () => {
	test.each<[string, string]>([
		['name', 'title'],
		['url', 'send'],
		['params', 'query'],
		['payload', 'body'],
		['json', 'body'],
		['auth', 'credential'],
		['assert', 'checks'],
		['extract', 'keep'],
		['variables', 'set'],
		['delay', 'wait'],
		['if', 'when'],
		['loop', 'each'],
		['finally', 'cleanup'],
		['skip', 'off']
	])('a step that says %s means %s', (word, key) => {
		const text = collection(`      - id: a\n        send: GET /\n        ${word}: x\n`);
		const { problems } = loadProject([{ path, text }], new Set([path])).workspace;
		expect(problems.map(({ message }) => message)).toEqual([`unknown key "${word}": did you mean "${key}"?`]);
	});
	test('one slip is one problem, however much of the file it makes odd', () => {
		const steps = '      - { id: a, send: GET /, keep: { x: //input[@name]/@value } }\n';
		const more = Array.from({ length: 50 }, (_, n) => `      - { id: b${n}, send: GET / }\n`).join('');
		expect(problemsOf(path, collection(steps + more))).toHaveLength(1);
		expect(problemsOf(path, 'heron: 1\ntitle: a\ntitle: b\ntitle: c\n')).toHaveLength(2);
	});
	test.each<[string, string, string, string]>([
		['YAML that does not parse', path, 'heron: 1\ntitle: "x\n', 'collections/x.yaml:3:1: this is not YAML'],
		[
			'a text with brackets, without quotes',
			path,
			collection(
				'      - { id: a, send: GET /, keep: { x: //input[@name]/@value } }\n      - { id: b, send: GET / }\n'
			),
			':5:49: this is not YAML: the value before this has ended; a text with [ ] { } , : or # in it needs quotes'
		],
		[
			'an expression without quotes, which is a map',
			path,
			collection('      - id: a\n        send: POST /\n        body: { json: { n: {$env.n} } }\n'),
			':7:25: this is a map, and no expression: put it in quotes, "{$env.n}"'
		],
		[
			'a text that begins with an expression, without quotes',
			path,
			collection('      - id: a\n        send: GET /\n        query: { at: {$env.base}/x }\n'),
			'this is not YAML: a text that begins with {$…} needs quotes'
		],
		[
			'the same in a list of lines',
			path,
			'heron: 1\ntags:\n  - {$env.a} b\n',
			'collections/x.yaml:3:14: this is not YAML: a text that begins with {$…} needs quotes'
		],
		['a tab', path, 'heron: 1\nscenarios:\n\t- id: a\n', 'a tab cannot indent'],
		['a key twice', path, 'heron: 1\ntitle: a\ntitle: b\n', 'collections/x.yaml:3:1: this key stands here twice'],
		[
			'an unknown key, with the nearest',
			path,
			'heron: 1\ntitel: a\n',
			'collections/x.yaml:2:1: unknown key "titel": did you mean "title"?'
		],
		[
			'an unknown key of a step',
			path,
			collection('      - id: a\n        send: GET /\n        cheks: []\n'),
			':7:9: unknown key "cheks": did you mean "checks"?'
		],
		[
			'a send without method',
			path,
			collection('      - id: a\n        send: /bookings\n'),
			':6:9: a method and a path are wanted, such as GET /bookings: "GET /bookings" perhaps'
		],
		[
			'a method in small letters',
			path,
			collection('      - id: a\n        send: get /x\n'),
			'methods are case-sensitive: GET'
		],
		['a path without slash', path, collection('      - id: a\n        send: GET bookings\n'), '/bookings perhaps'],
		[
			'an id twice',
			path,
			collection('      - { id: a, send: GET / }\n      - { id: a, send: GET / }\n'),
			':6:11: the id "a" is used twice here: entry 1 has it'
		],
		[
			'a step of two kinds',
			path,
			collection('      - { id: a, send: GET /, wait: 1 s }\n'),
			'exactly one of send, set, wait'
		],
		[
			'a field of another kind of step',
			path,
			collection('      - { id: a, wait: 1 s, query: {} }\n'),
			'"query" does not fit a step of wait'
		],
		...(
			[
				['equality as elsewhere', '$env.x == 1', '== is written ='],
				['inequality as elsewhere', '$env.x !== 1', '!== is written !='],
				['a join by signs', '$env.x = 1 && true', '&& is written and'],
				['a choice by signs', '$env.x = 1 || true', '|| is written or'],
				['a negation by a sign', '!$env.x', '! is written $not(…)'],
				['a sign that is part of a text', '$env.x = "==" +', 'in $env.x = "==" +: ']
			] as const
		).map(
			([name, when, message]) =>
				[name, path, collection(`      - { id: a, send: GET /, when: '${when}' }\n`), message] as [
					string,
					string,
					string,
					string
				]
		),
		[
			'a status with relations',
			path,
			collection('      - { id: a, send: GET /, checks: [{ status: { not: 500 } }] }\n'),
			'{"not":500} is not a status'
		],
		['a step without id', path, collection('      - send: GET /\n'), 'id is missing'],
		[
			'a check that looks at nothing',
			path,
			collection('      - { id: a, send: GET /, checks: [{ equals: 1 }] }\n'),
			'a check looks at exactly one of'
		],
		[
			'a check without relation',
			path,
			collection('      - { id: a, send: GET /, checks: [{ body: $.x }] }\n'),
			'not what must hold'
		],
		[
			'an unknown relation',
			path,
			collection('      - { id: a, send: GET /, checks: [{ body: $.x, equal: 1 }] }\n'),
			':5:53: "equal" is no relation: did you mean "equals"?'
		],
		[
			'a relation that there is not',
			path,
			collection('      - { id: a, send: GET /, checks: [{ body: $.x, length: 1 }] }\n'),
			'"length" is no relation; known are above, after,'
		],
		[
			'a subject that there is not',
			path,
			collection('      - { id: a, send: GET /, checks: [{ text: { contains: x } }] }\n'),
			'"text" is nothing that a check looks at; known are baseline, body,'
		],
		[
			'a status that is none',
			path,
			collection('      - { id: a, send: GET /, checks: [{ status: 2000 }] }\n'),
			'2000 is not a status'
		],
		[
			'a pattern that cannot be read',
			path,
			collection('      - { id: a, send: GET /, checks: [{ body: $.x, matches: "(" }] }\n'),
			'the pattern ( cannot be read'
		],
		[
			'a selector that cannot be read',
			path,
			collection('      - { id: a, send: GET /, keep: { x: "$.[" } }\n'),
			'the selector $.[ cannot be read'
		],
		[
			'a value that is kept as a check would look at it',
			path,
			collection('      - { id: a, send: GET /, keep: { x: { header: Link } } }\n'),
			'unknown key "header"; did you mean the selector "header:Link"?'
		],
		[
			'a body of two kinds',
			path,
			collection('      - { id: a, send: POST /, body: { json: 1, text: a } }\n'),
			'a body has exactly one of'
		],
		[
			'a part without name',
			path,
			collection('      - { id: a, send: POST /, body: { multipart: [{ text: a }] } }\n'),
			'the part has no name'
		],
		[
			'a duration without unit',
			path,
			collection('      - { id: a, send: GET /, timeout: 5 }\n'),
			'a duration is wanted, such as 500 ms'
		],
		[
			'redirects of a step in words',
			path,
			collection('      - { id: a, send: GET /, redirects: none }\n'),
			'how many redirects are followed is wanted, 0 to 50; 0 for none'
		],
		['an expression that cannot be read', path, collection('      - { id: a, send: "GET /{$env.}" }\n'), 'in $env.:'],
		[
			'an expression that is not closed',
			path,
			collection('      - { id: a, send: GET /, query: { a: "{$env.x" } }\n'),
			'is not closed'
		],
		['a condition that cannot be read', path, collection('      - { id: a, send: GET /, when: "$env.n >" }\n'), ':5:'],
		[
			'tries without a number',
			path,
			collection('      - { id: a, send: GET /, retry: { count: 3 } }\n'),
			':5:31: times is missing: how often it is tried again'
		],
		[
			'tries by another word',
			path,
			collection('      - { id: a, send: GET /, retry: { count: 3 } }\n'),
			'unknown key "count": did you mean "times"?'
		],
		[
			'a repeat by another word',
			path,
			collection('      - { id: a, send: GET /, until: { status: 200, interval: 1 s } }\n'),
			'unknown key "interval": did you mean "every"?'
		],
		[
			'rows by another word',
			path,
			'heron: 1\nscenarios:\n  - { id: s, data: d, steps: [] }\n',
			':3:14: unknown key "data": did you mean "rows"?'
		],
		[
			'a dataset by another word',
			path,
			'heron: 1\nscenarios:\n  - { id: s, rows: { file: d }, steps: [] }\n',
			'unknown key "file": did you mean "data"?'
		],
		[
			'a map where a list belongs',
			path,
			'heron: 1\nscenarios: { s: {} }\n',
			':2:1: a list is wanted: entries with a dash before them'
		],
		[
			'a list where keys belong, with some of them',
			'suites/s.yaml',
			'heron: 1\nscenarios: [a]\ngate: [ failed: 0 ]\n',
			':3:1: keys with values are wanted, such as failed, errors, '
		],
		['a list where a map belongs', 'connections/c.yaml', '- heron: 1\n', 'keys with values are wanted'],
		['a connection without base', 'connections/c.yaml', 'heron: 1\n', 'base is missing'],
		['another version', 'heron.yaml', 'heron: 2\n', 'format version 2 is not known'],
		['a secret with a value', 'environments/e.yaml', 'heron: 1\nsecrets: { a: b }\n', 'a list of names is wanted'],
		['an empty file', 'suites/s.yaml', '', 'keys with values are wanted'],
		[
			'a suite that runs what is no text',
			'suites/s.yaml',
			'heron: 1\nscenarios: [3]\n',
			'a collection, collection/scenario or { tag: NAME } is wanted'
		]
	])('%s', (_, file, text, message) => {
		expect(problemsOf(file, text).join('\n')).toContain(message);
	});
	test('all problems come at once', () => {
		expect(
			problemsOf(path, collection('      - { id: a, send: get /, chek: 1 }\n      - { id: b }\n')).length
		).toBeGreaterThanOrEqual(3);
	});
	test('a file nested a hundred thousand deep is refused, not crashed on', () => {
		expect(problemsOf(path, '['.repeat(100_000))[0]).toMatch(/^collections\/x.yaml:1:\d+: this is not YAML/);
	});
});

describe('what files say of each other', () => {
	const load = (files: Record<string, string>) => {
		const sources = Object.entries({ 'heron.yaml': 'heron: 1\n', ...files }).map(([file, text]) => ({
			path: file,
			text
		}));
		return loadProject(sources, new Set(sources.map((s) => s.path))).workspace;
	};
	test.each<[string, Record<string, string>, string]>([
		[
			'a connection that is not there',
			{ [path]: 'heron: 1\nconnection: redmere\n', 'connections/reedmere.yaml': 'heron: 1\nbase: http://h\n' },
			`${path}:2:1: there is no connection "redmere": did you mean "reedmere"?`
		],
		[
			'a scenario that is not there',
			{ 'suites/s.yaml': 'heron: 1\nscenarios: [a/b]\n' },
			'there is no collection or scenario "a/b"'
		],
		[
			'an environment that is not there',
			{ 'heron.yaml': 'heron: 1\nenvironment: local\n' },
			'there is no environment "local"'
		],
		[
			'a file that is not there',
			{ [path]: collection('      - { id: a, send: POST /, body: { file: files/no.pdf } }\n') },
			'there is no file files/no.pdf in the project'
		],
		[
			'an output before it is kept',
			{
				[path]: collection(
					'      - { id: a, send: "GET /{$steps.b.x}" }\n      - { id: b, send: GET /, keep: { x: $.x } }\n'
				)
			},
			'$steps.b is used before step b has run'
		],
		[
			'an output that nobody keeps',
			{
				[path]: collection(
					'      - { id: a, send: GET /, keep: { id: $.id } }\n      - { id: b, send: "GET /{$steps.a.di}" }\n'
				)
			},
			'there is no value kept by a as "di": did you mean "id"?'
		],
		[
			'a kept value by its bare name',
			{
				[path]: collection(
					'      - { id: a, send: GET /, keep: { id: $.id } }\n      - { id: b, send: "GET /{$id}" }\n'
				)
			},
			'$id is not set: the step a keeps it as $steps.a.id'
		],
		[
			'a misspelt beginning',
			{ [path]: collection('      - { id: a, send: "GET /{$step.a.id}" }\n') },
			'$step is not set: did you mean "steps"?'
		],
		[
			'a step that is not there',
			{ [path]: collection('      - { id: a, send: "GET /{$steps.nobody.x}" }\n') },
			'there is no step "nobody"'
		],
		[
			'a step whose name has a dash',
			{
				[path]: collection(
					'      - { id: log-in, send: GET / }\n      - { id: b, send: "GET /{$steps.log-in.token}" }\n'
				)
			},
			'there is no step "log": the step log-in is written `log-in`, in backticks'
		],
		[
			'a part of an answer that there is not',
			{ [path]: collection('      - { id: a, send: GET /, checks: [{ that: $response.header.etag = "x" }] }\n') },
			'$response.header is not set: did you mean "headers"?'
		],
		[
			'a part of an answer that is nothing like one',
			{ [path]: collection('      - { id: a, send: GET /, checks: [{ that: $response.json }] }\n') },
			'$response.json is not set; known are body, bytes,'
		]
	])('%s', (_, files, message) => {
		expect(load(files).problems.map(problemLine).join('\n')).toContain(message);
	});
	test('a kept value that nobody uses is a warning', () => {
		const { problems, warnings } = load({
			[path]: collection('      - { id: a, send: GET http://h/, keep: { id: $.id }, checks: [{ status: 200 }] }\n')
		});
		expect(problems).toEqual([]);
		expect(warnings.map((w) => w.message)).toEqual(['"id" is kept and not used']);
	});
	test.each([
		['a row where there is none', '', '', true],
		['a row that may be left out', ' ? $row.id : 1', '', false],
		['a row of a scenario with rows', '', 'rows: { data: [{ id: 1 }] }', false],
		['what a step repeats', '', 'each', false],
		['a row of who calls', '', 'called', false]
	])('of rows: %s', (_, more, how, told) => {
		const each = how === 'each' ? ', each: [{ id: 1 }]' : '';
		const expression = more ? '{$exists($row.id)' + more + '}' : '{$row.id}';
		const text = [
			'heron: 1\nscenarios:\n  - id: s',
			how.startsWith('rows') ? `    ${how}` : '    title: S',
			`    steps: [{ id: a, send: "GET http://h/${expression}", checks: [{ status: 200 }]${each} }]`,
			how === 'called' ? '  - { id: t, steps: [{ id: b, call: s }] }\n' : ''
		].join('\n');
		const found = load({ [path]: text }).warnings.filter(({ code }) => code === 'lint.noRows');
		expect(found.map(({ message }) => message)).toEqual(told ? [expect.stringContaining('$row.id has no value')] : []);
	});
	test('an expression in a title is told at its place, and one in braces alone is a title', () => {
		const text = [
			'heron: 1',
			'title: "Boats of {$env.basin}"',
			'scenarios:',
			'  - id: s',
			'    title: Look at {$row.boat}',
			'    steps:',
			'      - { id: a, send: GET http://h/x, title: "{$row.boat}" }',
			'      - { id: b, send: GET http://h/x, title: "{boat}" }'
		].join('\n');
		const found = load({ [path]: text }).warnings.filter(({ code }) => code === 'lint.title');
		expect(found.map(({ line, column }) => [line, column])).toEqual([
			[2, 1],
			[5, 5],
			[7, 40]
		]);
	});
	test.each([
		['a path without a connection', 'GET /x', true],
		['nothing but a method', 'GET /', true],
		['a whole address', 'GET HTTP://h/x', false],
		['an address that a variable begins', 'GET {$env.base}/x', false]
	])('%s may go nowhere', (_, send, nowhere) => {
		const steps = `      - { id: a, send: "${send}", checks: [{ status: 200 }] }\n`;
		const of = (text: string) => load({ [path]: text }).warnings.filter(({ code }) => code === 'lint.noConnection');
		expect(of(collection(steps)).map(({ line }) => line)).toEqual(nowhere ? [5] : []);
		const named = collection(steps).replace('scenarios:', 'connection: one\nscenarios:');
		expect(of(named)).toEqual([]);
	});
});

describe('named values', () => {
	test.each<[string, Json]>([
		['a map', { a: 1, b: 'x' }],
		[
			'a list where a name repeats',
			[
				['a', 1],
				['a', 2]
			]
		],
		['one that is off', { a: { value: 1, off: true } }]
	])('%s survives reading and writing', (_, value) => expect(writeParams(parseParams(value))).toEqual(value));
});

describe('units', () => {
	test.each([
		['800 ms', 800],
		['5s', 5000],
		['1.5 min', 90_000],
		['5', undefined],
		['5 h', 18_000_000],
		['30 d', 2_592_000_000],
		['5 w', undefined]
	])('%s is %s ms', (text, ms) => expect(parseDuration(text)).toBe(ms));
	test.each([
		['20 kB', 20_000],
		['3 B', 3],
		['1 MB', 1_000_000],
		['1 KB', undefined]
	])('%s is %s bytes', (text, n) => expect(parseSize(text)).toBe(n));
	test.each([
		[0.4, '<1 ms'],
		[84, '84 ms'],
		[1240, '1.2 s'],
		[61_000, '1 min 1 s']
	])('%d ms reads %s', (ms, text) => expect(showDuration(ms)).toBe(text));
	test.each([
		[312, '312 B'],
		[4800, '4.8 kB'],
		[20_000_000, '20 MB']
	])('%d bytes read %s', (n, text) => expect(showSize(n)).toBe(text));
});

describe('why a text is not JSON', () => {
	test.each<[string, string]>([
		['', 'it ends early (line 1, column 1)'],
		['{"a": 1,\n "b": nul}', '(line 2, column 7)'],
		['[1, 2', `(line 1, column 6)`],
		['{\n  "a": "x\n}', '(line 2, column 8)'],
		['{"a": 1} x', '(line 1, column 10)'],
		['[1,\n2,\n]', '(line 3, column 1)'],
		['not JSON at all', '(line 1, column 1)']
	])('%j says the place', (text, expected) => {
		expect(() => parseJson(text)).toThrow(expected);
	});
	test('and what is nested too deep for the reader still says one', () => {
		expect(() => parseJson('['.repeat(100_000))).toThrow(/line 1, column \d+/);
	});
});
