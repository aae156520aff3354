import { describe, expect, test } from 'vitest';
import type { Json } from '../model/json.ts';
import type { Recorded } from '../exchange/index.ts';
import { answersOf, originsOf } from './recorded.ts';

const HOST = 'https://api.reedmere.example';
const json: Recorded['headers'] = [['Content-Type', 'application/json']];
const call = (what: string, body: unknown, more: Partial<Recorded> & { sent?: unknown } = {}): Recorded => {
	const [method = '', target = ''] = what.split(' ');
	const { sent, ...rest } = more;
	return {
		...{ method, url: HOST + target, requestHeaders: sent === undefined ? [] : json, status: 200, headers: json },
		requestBody: sent === undefined ? undefined : JSON.stringify(sent),
		body: JSON.stringify(body),
		...rest
	};
};
const made = (...list: Recorded[]) =>
	answersOf(list, HOST).answers as unknown as { id: string; ask: string; must?: Json; answer: Json }[];

describe('what was recorded becomes', () => {
	test('one answer for the same call with the same answer', () => {
		expect(made(call('GET /a', { n: 1 }), call('GET /a', { n: 1 }))).toEqual([
			{ id: 'get-a', ask: 'GET /a', answer: { status: 200, body: { json: { n: 1 } } } }
		]);
	});
	test('answers below the base of the connection that called, whose path they are written without', () => {
		const list = [call('GET /v2/a', 1), call('GET /v2', 2)];
		const below = answersOf(list, HOST, ['/v', '/v2']);
		expect([below.base, below.answers.map(({ ask }) => ask)]).toEqual(['/v2', ['GET /a', 'GET /']]);
		const mixed = answersOf([...list, call('GET /v2b', 3)], HOST, ['/v2']);
		expect([mixed.base, mixed.answers.map(({ ask }) => ask)]).toEqual(['', ['GET /a', 'GET /', 'GET /v2b']]);
		expect(answersOf(list, HOST, ['']).base).toBe('');
	});
	test('answers in turn for the same call with others', () => {
		expect(made(call('GET /a', { n: 1 }), call('GET /a', { n: 1 }), call('GET /a', { n: 'x' }))[0]!.answer).toEqual([
			{ status: 200, body: { json: { n: 1 } }, times: 2 },
			{ status: 200, body: { json: { n: 'x' } } }
		]);
	});
	test('one with expressions where times, ids and counters alone differ', () => {
		const one = (at: string, id: string, count: number) => ({ at, id, count, boat: 'Heron' });
		expect(
			made(
				call('GET /a', one('2027-05-01T10:00:00Z', '0af76519-16cd-43dd-8448-eb211c80319c', 7)),
				call('GET /a', one('2027-05-01T10:00:01Z', '1bf76519-16cd-43dd-8448-eb211c80319c', 8))
			)[0]!.answer
		).toEqual({
			status: 200,
			body: { json: { at: '{$now()}', id: '{$uuid()}', count: '{$asked + 6}', boat: 'Heron' } }
		});
	});
	test('checks of the query that tell calls apart', () => {
		expect(
			made(call('GET /a?x=1&y=0', 1), call('GET /a?x=2&y=0', 2), call('GET /a?y=0', 3)).map(({ must }) => must)
		).toEqual([[{ query: 'x', equals: '1' }], [{ query: 'x', equals: '2' }], [{ query: 'x', present: false }]]);
	});
	test('checks of the body that tell calls apart', () => {
		const list = made(
			call('POST /a', 1, { sent: { boat: 'Heron', nights: 2 } }),
			call('POST /a', 2, { sent: { boat: 'Otter', nights: 2 } })
		);
		expect(list.map(({ id, must }) => [id, must])).toEqual([
			['post-a', [{ body: '$.boat', equals: 'Heron' }]],
			['post-a-2', [{ body: '$.boat', equals: 'Otter' }]]
		]);
	});
	test('what looks like an expression stays text, and braces of a path no names', () => {
		const [one] = made(call('GET /a/{x}', { text: 'it costs {$5}' }));
		expect(one).toMatchObject({ ask: 'GET /a/%7Bx%7D', answer: { body: { json: { text: 'it costs \\{$5}' } } } });
	});
	test('only calls of one origin, without what pages fetch for themselves', () => {
		const list = [
			call('GET /a', 1),
			call('GET /logo.png', 1, { headers: [['Content-Type', 'image/png']] }),
			call('GET /b', 1, { url: 'https://other.reedmere.example/b' }),
			call('GET /c', 1, { body: undefined, headers: [...json, ['Content-Length', '5']] })
		];
		expect(originsOf(list)[0]).toEqual({ origin: HOST, calls: 2 });
		const { answers, notes } = answersOf(list, HOST);
		expect(answers).toHaveLength(1);
		expect(notes).toEqual(['1 to other hosts', '1 for pictures, styles, scripts and fonts', '1 whose body is no text']);
	});
	test('fields of the carriage are left out, a name that repeats is kept twice', () => {
		const [one] = made(
			call('GET /a', '', {
				body: 'x',
				headers: [
					['Content-Type', 'text/plain'],
					['Date', 'now'],
					['X-A', '1'],
					['X-A', '2']
				]
			})
		);
		expect(one!.answer).toEqual({
			status: 200,
			headers: [
				['X-A', '1'],
				['X-A', '2']
			],
			body: { text: 'x', type: 'text/plain' }
		});
	});
});
