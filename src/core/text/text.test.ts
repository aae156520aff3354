import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { isPair, isSeq, parseDocument, visit, type Scalar } from 'yaml';
import { describe, expect, test } from 'vitest';
import type { JsonObject } from '../model/json.ts';
import { documentKinds, schemaOfKind } from '../documents/kinds.ts';
import { loadDocument } from '../project/index.ts';
import { textFixOf, offersAt, pathOfLine, spotAt } from './index.ts';

/** A text with `|` at the place that is meant. */
const at = (text: string) => ({ text: text.replace('|', ''), offset: text.indexOf('|') });
const spot = (marked: string) => {
	const { text, offset } = at(marked);
	return spotAt(text, offset);
};
const schemaOf = (name: string) => schemaOfKind(documentKinds.find((one) => one.name === name)!) as JsonObject;
const offered = (kind: string, marked: string, names?: (path: readonly (string | number)[]) => string[]) => {
	const { text, offset } = at(marked);
	return offersAt(schemaOf(kind), text, offset, names)?.offers.map(({ label }) => label);
};

const STEPS = `heron: 1
title: Locks
scenarios:
  - id: first
    steps:
      - id: one
        send: GET /a
  - id: second
    steps:
      - id: two
        send: GET /b
        checks:
          - status: 200
          - header: location
            |`;

describe('where a place is', () => {
	test.each<[string, string, unknown]>([
		['a key at the top', 'heron: 1\nti|', { path: [], word: 'ti', keys: ['heron'] }],
		['a value', 'heron: 1\ntitle: Lo|', { path: [], key: 'title', word: 'Lo' }],
		['a key of a map', 'a:\n  b: 1\n  c|', { path: ['a'], word: 'c', keys: ['b'] }],
		['keys below it count, too', 'a:\n  |\n  c: 1\nd: 1', { path: ['a'], keys: ['c'] }],
		['an item of a list', 'a:\n  - x\n  - |', { path: ['a', 1], word: '' }],
		['a list at the column of its key', 'a:\n- x: 1\n- y|', { path: ['a', 1], word: 'y' }],
		['deep in lists', STEPS, { path: ['scenarios', 1, 'steps', 0, 'checks', 1], keys: ['header'] }],
		['a new item knows none of the one before', 'a:\n  - x: 1\n    y: 2\n  - |', { path: ['a', 1], keys: [] }],
		['within braces', 'a: { b: 1, c|', { path: ['a'], word: 'c', keys: ['b'], flow: true }],
		['a value within braces', 'a: { b: 1, c: tr|', { path: ['a'], key: 'c', word: 'tr' }],
		['within brackets and braces', 'a: [{ b: 1 }, { c|', { path: ['a', 1], word: 'c', keys: [] }],
		['a dash before braces', 'a:\n  - { b: 1, |', { path: ['a', 0], keys: ['b'], flow: true }],
		['an expression is no brace', 'a: { b: "{$env.x}", c|', { path: ['a'], word: 'c' }],
		['a key in quotes', '"a b":\n  c|', { path: ['a b'], word: 'c' }],
		['an unfinished file', 'a:\n  b: [1,\nc:\n  d|', { path: ['c'], word: 'd' }]
	])('%s', (_, text, expected) => {
		expect(spot(text)).toMatchObject(expected as object);
	});
	test.each([
		['a comment', 'a: 1 # b|'],
		['a text of several lines', 'a: |\n  first\n  sec¦'.replace('|', '@').replace('¦', '|').replace('@', '|')],
		['the end of a text of several lines', 'a: >-\n  first\n\n  b: |']
	])('nothing is written in %s', (_, text) => {
		const offset = text.lastIndexOf('|');
		expect(spotAt(text.slice(0, offset) + text.slice(offset + 1), offset)).toBeUndefined();
	});
});

describe('to what a line belongs', () => {
	const step = ['scenarios', 0, 'steps', 1];
	const FILE = `scenarios:
  - id: first
    steps:
      - send: GET /a

      # the second one
      - id: two # by its name
        send: POST /b
        body:
          text: |
            - none: of these

            is a step
        checks:
          - status: 200
      - { id: three, send: GET /c }
`;
	test.each<[string, string, (string | number)[]]>([
		['its beginning, before anything is written', '      - id: two', step],
		['a key of it', '        send: POST', step],
		['a comment behind it', '# by its name', step],
		['a comment and an empty line belong to what is above', '# the second one', ['scenarios', 0, 'steps', 0]],
		['a text of several lines', '- none: of these', [...step, 'body']],
		['its last line', 'is a step', [...step, 'body']],
		['an item of a list in it', '- status: 200', [...step, 'checks', 0]],
		['braces', 'send: GET /c', ['scenarios', 0, 'steps', 2]],
		['the top', 'scenarios:', []]
	])('%s', (_, place, path) => expect(pathOfLine(FILE, FILE.indexOf(place))).toEqual(path));
	test('an empty file', () => expect(pathOfLine('', 0)).toEqual([]));
});

describe('what may be written', () => {
	test.each<[string, string, string, string[]]>([
		['keys of a file', 'collection', 'heron: 1\n|', ['title', 'connection', 'scenarios']],
		['keys of a scenario', 'collection', 'scenarios:\n  - |', ['id', 'steps', 'tags', 'rows']],
		['words of a choice', 'collection', 'scenarios:\n  - rows:\n      failed: |', ['go-on', 'set-aside', 'stop']],
		['keys of a check and its relations', 'collection', STEPS, ['contains', 'equals', 'matches']],
		['the two words of a switch', 'collection', 'scenarios:\n  - off: |', ['true', 'false']]
	])('%s', (_, kind, text, expected) => {
		expect(offered(kind, text)).toEqual(expect.arrayContaining(expected));
	});
	test('a key that stands there is not offered again', () => {
		expect(offered('collection', 'heron: 1\ntitle: a\n|')).not.toContain('title');
	});
	test('names of other documents', () => {
		const names = (path: readonly (string | number)[]) => (path.at(-1) === 'connection' ? ['reedmere'] : []);
		expect(offered('collection', 'connection: |', names)).toEqual(['reedmere']);
	});
	test('what is offered begins the value of its key', () => {
		const { text, offset } = at('heron: 1\nsce|');
		const offer = offersAt(schemaOf('collection'), text, offset)!.offers.find(({ label }) => label === 'scenarios')!;
		expect(offer.text).toBe('scenarios:\n  - ');
		expect(offer).toMatchObject({ detail: 'array' });
	});
});

describe('fixes of what is misspelt', () => {
	const fixed = (text: string) => {
		const problem = loadDocument('collections/locks.yaml', text)!.problems[0]!;
		const fix = textFixOf(problem, text.split('\n'), schemaOf('collection'));
		return fix && text.slice(0, fix.from) + fix.text + text.slice(fix.to);
	};
	test('none of a line that is not there any more', () => {
		const problem = loadDocument('collections/locks.yaml', 'heron: 1\n\n\ntitel: Locks\nscenarios: []\n')!.problems[0]!;
		expect(problem.line).toBe(4);
		expect(textFixOf(problem, ['heron: 1'], schemaOf('collection'))).toBeUndefined();
	});
	test.each([
		['at the top', 'heron: 1\ntitel: Locks\n', 'heron: 1\ntitle: Locks\n'],
		['whose value stands below', 'heron: 1\nscenarois:\n  - id: a\n', 'heron: 1\nscenarios:\n  - id: a\n'],
		[
			'within braces',
			'heron: 1\nscenarios: [{ id: a, steps: [{ sned: GET /a }] }]\n',
			'heron: 1\nscenarios: [{ id: a, steps: [{ send: GET /a }] }]\n'
		]
	])('a key %s', (_, text, wanted) => expect(fixed(text)).toBe(wanted));
	test('a key that is near to none is left', () => expect(fixed('heron: 1\nweather: fair\n')).toBeUndefined());
});

describe('judged by a parser of YAML', () => {
	const root = fileURLToPath(new URL('../../../demo/reedmere', import.meta.url));
	const files = readdirSync(root, { recursive: true, encoding: 'utf8' }).filter((path) =>
		/^(?!.*definitions).*\.yaml$/.test(path)
	);
	test('there is something to look at', () => expect(files.length).toBeGreaterThan(20));
	test.each(files)('each key of %s stands where the parser says', (file) => {
		const text = readFileSync(join(root, file), 'utf8');
		const document = parseDocument(text);
		const wrong: unknown[] = [];
		visit(document, {
			Pair(_, pair, ancestors) {
				const key = pair.key as Scalar<string>;
				const path: (string | number)[] = [];
				for (const [index, one] of ancestors.entries()) {
					const next = ancestors[index + 1] ?? pair;
					if (isPair(one)) path.push(String((one.key as Scalar).value));
					else if (isSeq(one)) path.push(one.items.indexOf(next));
				}
				const found = spotAt(text, key.range![0]);
				if (!found || found.key !== undefined || JSON.stringify(found.path) !== JSON.stringify(path))
					wrong.push({ path, found: found?.path, key: key.value });
			}
		});
		expect(wrong).toEqual([]);
	});
});
