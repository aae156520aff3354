import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { parseYaml, readDocument } from './yaml.ts';

/** What the reader that knows places makes of it; undefined for what is wrong. */
function slowly(text: string): unknown {
	try {
		const document = readDocument(text);
		return document.errors.length > 0 ? undefined : document.toJS();
	} catch {
		return undefined;
	}
}
const demo = join(import.meta.dirname, '../../../demo/reedmere');
const files = readdirSync(demo, { recursive: true, encoding: 'utf8' }).filter((path) => path.endsWith('.yaml'));

describe('the quick reader and the one that knows places', () => {
	test.each([
		...['1_000', '0b11', '0o17', '0x1F', '+1', '1.', '.5', '-.5', '0777', '.inf', '-.INF', '~', 'Null', 'NULL', 'true'],
		...['True', 'yes', 'on', '2027-06-01', '2027-06-01T10:00:00Z', '1e3', '12345678901234567890', '1:30', '"a\\u00e9"'],
		...["'it''s'", '{a: 1, b: }', '[1, , 2]', '[a, b,]', '{a, b: 2}', 'a: |\n  x\n  y\n', 'a: >-\n  x\n  y\n\n  z'],
		...['a: &x 1\nb: *x', '<<: {a: 1}\nb: 2', '!!str 1', 'a: !t x', 'a: 1\na: 2', '\ta: 1', 'a:\n\t- b', 'a: b: c'],
		...['a: "x', '? a\n: b', '- - 1\n  - 2', 'a: # c\n  b', 'a: {$set.x}', 'a: "{$env.x}"', 'a: {$env.x: 1}'],
		...['__proto__: 1', '{__proto__: {a: 1}}', '%YAML 1.1\n---\na: yes', '--- 1\n--- 2', 'a: @x', 'a: %x', 'a: -'],
		...[
			'a: x #c',
			'a: x#c',
			'a:\r\n  b: 1\r\n',
			'\ufeffa: 1',
			'a: x\n b',
			'1: a',
			'1.0: a',
			'null: a',
			'true: a',
			'~: a'
		],
		...[
			'a: "x\n  y"',
			'a: >\n  x\n   y\n',
			'a: |+\n  x\n\n',
			'a: |2\n   x',
			'a:b',
			'{"a":1}',
			'{a:1}',
			'a: 1__0',
			'a: 08'
		],
		...[
			'a: -0',
			'a: 0o8',
			'a: !!binary aGk=',
			'x: [*y]',
			'a: ---',
			'...',
			'a\nb',
			'',
			'# nothing',
			'- a\n-b',
			'[&a 1, *a]',
			'a: !',
			'- ?',
			'a: [:, 1]',
			'- -\n- 2',
			'- {{t}}',
			'a: []#b',
			'a: 1_0.5'
		],
		...[
			'a: $.x[*].y',
			'a: [$[*], "*"]',
			'a: b && c',
			'- $x ? "&" : "*"',
			'a: [*]',
			'a: {*}',
			'a: x *y',
			'a: b & c\n  &d'
		],
		...[
			'a:\n  &x b',
			'--- &x a',
			'- [&x a, [*x]]',
			'? &x a\n: *x',
			'"a": &x b',
			'a: !t &x b',
			'a:   .5',
			'[ .5, -0]',
			'- ? a',
			'----1',
			'{a}: b',
			'[a] : b'
		]
	])('read %j alike', (text) => {
		const { value, problems } = parseYaml('x.yaml', text);
		const wanted = slowly(text);
		expect(problems.length > 0).toBe(wanted === undefined);
		expect(value).toEqual(wanted ?? null);
		expect(Object.getPrototypeOf(value ?? {})).not.toBeUndefined();
	});
	test.each(files)('read %s alike', (path) => {
		const text = readFileSync(join(demo, path), 'utf8');
		expect(parseYaml(path, text).value).toEqual(slowly(text));
	});
	test('places are those of the text', () => {
		expect(parseYaml('x.yaml', 'a:\n  - b: 1\n    c: 2\n').placeOf(['a', 0, 'c'])).toEqual({ line: 3, column: 5 });
	});
	test('aliases that make much of little are refused, and nothing hangs', () => {
		const lines = ['a0: &a0 [x, x, x, x, x, x, x, x, x, x]'];
		for (let i = 1; i < 12; i++)
			lines.push(`a${i}: &a${i} [${Array.from({ length: 10 }, () => `*a${i - 1}`).join(', ')}]`);
		expect(parseYaml('x.yaml', lines.join('\n')).problems).toHaveLength(1);
	});
	test('a hundred thousand empty lines, or levels, take no time', () => {
		expect(parseYaml('x.yaml', `a: 1${'\n'.repeat(100_000)}b: 2`).value).toEqual({ a: 1, b: 2 });
		expect(parseYaml('x.yaml', '['.repeat(100_000)).problems).not.toHaveLength(0);
	});
});

test('a map of a hundred thousand keys is read, and the one that stands twice is found in its line', () => {
	const lines = Array.from({ length: 100_000 }, (_, index) => `k${index}: &a${index} ${index}`);
	const { problems } = parseYaml('heron.yaml', [...lines, 'k7: again'].join('\n'));
	expect(problems).toMatchObject([
		{ message: 'this key stands here twice: one of them has to go', line: 100_001, column: 1 }
	]);
});
