import { parse } from 'yaml';
import { describe, expect, test } from 'vitest';
import type { Json } from './json.ts';
import { editYaml } from './edit.ts';

const file = `# the bookings of the basin
heron: 1
title: Mooring bookings   # shown in the list

scenarios:
  # the happy way
  - id: book
    steps:
      - id: signIn
        send: POST /sessions
        body:
          json: { user: "{$env.clerk}", nights: 3 }
        checks:
          - status: 201 # created
          - header: Content-Type
            matches: ^application/json
      # the one that matters
      - id: make
        send: "POST /bookings"
        query: { notify: false }

      - id: cancel
        send: DELETE /bookings/{reference}
        cleanup: true
  - id: refuse
    steps: []
`;

type Any = any; // eslint-disable-line @typescript-eslint/no-explicit-any
const cases: [string, (value: Any) => void, string[], string[]][] = [
	[
		'changing one scalar touches its line alone',
		(v) => (v.title = 'Bookings'),
		['title: Mooring bookings   # shown in the list'],
		['title: Bookings   # shown in the list']
	],
	[
		'quotes stay where they were',
		(v) => (v.scenarios[0].steps[1].send = 'PUT /bookings'),
		['        send: "POST /bookings"'],
		['        send: "PUT /bookings"']
	],
	[
		'quotes that were needed go with what needed them',
		(v) => (v.scenarios[0].steps[0].body.json.user = 'avery'),
		['          json: { user: "{$env.clerk}", nights: 3 }'],
		['          json: { user: avery, nights: 3 }']
	],
	[
		'a value inside a flow map changes in place',
		(v) => (v.scenarios[0].steps[0].body.json.nights = 4),
		['          json: { user: "{$env.clerk}", nights: 3 }'],
		['          json: { user: "{$env.clerk}", nights: 4 }']
	],
	[
		'a new key is added behind the others',
		(v) => (v.scenarios[0].steps[0].timeout = '5 s'),
		[],
		['        timeout: 5 s']
	],
	[
		'a key that goes takes its line along',
		(v) => delete v.scenarios[0].steps[2].cleanup,
		['        cleanup: true'],
		[]
	],
	[
		'a new item of a list is added as lines',
		(v) => v.scenarios[0].steps[0].checks.push({ time: { below: '1 s' } }),
		[],
		['          - time:', '              below: 1 s']
	],
	[
		'an item that goes takes its comment along',
		(v) => v.scenarios[0].steps.splice(1, 1),
		[
			'      # the one that matters',
			'      - id: make',
			'        send: "POST /bookings"',
			'        query: { notify: false }'
		],
		[]
	],
	[
		'the first key of a list item can go',
		(v) => delete v.scenarios[0].steps[0].id,
		['      - id: signIn', '        send: POST /sessions'],
		['      - send: POST /sessions']
	],
	[
		'an empty list becomes lines',
		(v) => v.scenarios[1].steps.push({ id: 'x', send: 'GET /' }),
		['    steps: []'],
		['    steps:', '      - id: x', '        send: GET /']
	],
	[
		'a text of several lines becomes a block',
		(v) => (v.scenarios[0].steps[2].title = 'a\nb\n'),
		[],
		['        title: |', '          a', '          b']
	],
	[
		'renaming an id keeps the item where it is',
		(v) => (v.scenarios[0].steps[0].id = 'enter'),
		['      - id: signIn'],
		['      - id: enter']
	]
];

const diff = (a: string, b: string): [string[], string[]] => {
	const left = a.split('\n');
	const right = b.split('\n');
	const take = (from: string[], other: string[]) => {
		const rest = [...other];
		return from.filter((line) => {
			const at = rest.indexOf(line);
			if (at < 0) return line.trim() !== '';
			rest.splice(at, 1);
			return false;
		});
	};
	return [take(left, right), take(right, left)];
};

describe('writing back', () => {
	test.each(cases)('%s', (_, change, gone, come) => {
		const value = parse(file) as Json;
		change(value);
		const text = editYaml(file, value);
		expect(parse(text)).toEqual(value);
		expect(diff(file, text)).toEqual([gone, come]);
	});

	test('the same value gives the same bytes', () => {
		expect(editYaml(file, parse(file) as Json)).toBe(file);
	});

	test('of items that are alike, the one that changes is changed in its place', () => {
		const twice = '  - id: a # once\n    steps: [{ id: x }, { id: x }]\n';
		const text = `scenarios:\n${twice}${twice.replace('once', 'again')}`;
		const value = parse(text) as Any;
		value.scenarios[0].steps[1].id = 'y';
		expect(editYaml(text, value as Json)).toBe(text.replace('{ id: x }]', '{ id: y }]'));
	});
	test('moved items keep their lines and comments', () => {
		const value = parse(file) as Any;
		const steps = value.scenarios[0].steps;
		steps.reverse();
		const text = editYaml(file, value);
		expect(parse(text)).toEqual(value);
		expect(text).toContain('      # the one that matters\n      - id: make');
		expect(diff(file, text)).toEqual([[], []]);
	});

	test('a hundred random edits always give the wanted data', () => {
		let seed = 7;
		const random = (n: number) => (seed = (seed * 1103515245 + 12345) % 2147483648) % n;
		let text = file;
		for (let i = 0; i < 100; i++) {
			const value = parse(text) as Any;
			const steps = value.scenarios[0].steps;
			const at = random(Math.max(1, steps.length));
			const act = random(7);
			if (act === 0) steps.splice(at, 0, { id: `n${i}`, send: `GET /n/${i}`, headers: { 'X-A: b': `${i}` } });
			else if (act === 1 && steps.length > 1) steps.splice(at, 1);
			else if (act === 2 && steps.length > 1) steps.push(steps.shift());
			else if (act === 3 && steps.length)
				steps[at].title = ['plain', 'with: colon', '# hash', 'two\nlines', '', ' padded ', "it's", '- dash'][random(8)];
			else if (act === 4 && steps.length) steps[at].query = { a: random(9), [`k${i}`]: null };
			else if (act === 5 && steps.length) steps[at].body = { json: [1, { deep: [i, {}] }] };
			else if (steps.length) delete steps[at][Object.keys(steps[at])[1] ?? 'x'];
			text = editYaml(text, value);
			expect(parse(text)).toEqual(value);
		}
		expect(text).toContain('# the bookings of the basin');
		expect(text).toContain('# the happy way');
	});
});

test('what could not be read again is not written; what is there already stays', () => {
	const large = { title: 'x'.repeat(8_000_001) };
	expect(() => editYaml('title: x\n', large)).toThrow('the file has 8 MB; a project file may have up to 8 MB');
	const text = `title: ${large.title}\n`;
	expect(editYaml(text, large)).toBe(text);
});
