import { createEvaluator } from '#core/values/index.ts';
import { describe, expect, test } from 'vitest';
import { stringify } from 'yaml';
import { scriptedPorts } from '../../../tests/support/scripted.ts';
import type { Json, JsonObject } from '../model/json.ts';
import { loadProject } from '../project/index.ts';
import { createRedactor } from '../redact/index.ts';
import type { Segment } from '../values/index.ts';
import { choose, unrecordedRun, openRows, rehearse, rehearsedText, startNames, type RehearsedStep } from './index.ts';

const secrets = { key: 's3cret/é' };
async function rehearsed(
	given: JsonObject[],
	more: { base?: string; headers?: JsonObject } = {}
): Promise<RehearsedStep[]> {
	const steps: Json[] = given.map((step, index) => ({ id: `s${index}`, ...step }));
	const { made } = scriptedPorts(() => {
		throw new Error('something was sent');
	});
	const { workspace, documents } = loadProject(
		[
			{
				path: 'heron.yaml',
				text: stringify({ heron: 1, variables: { host: 'http://h:81/v1/', size: 5, where: 'pröject' } })
			},
			{
				path: 'environments/e.yaml',
				text: stringify({ heron: 1, variables: { boat: 'Slow "Tide" & Co', list: [1, 'a'], url: '{$env.boat}/x' } })
			},
			{
				path: 'connections/c.yaml',
				text: stringify({ heron: 1, base: more.base ?? '{$env.host}', headers: more.headers ?? {} })
			},
			{ path: 'collections/x.yaml', text: stringify({ heron: 1, connection: 'c', scenarios: [{ id: 's', steps }] }) }
		],
		new Set(['heron.yaml', 'environments/e.yaml', 'connections/c.yaml', 'collections/x.yaml'])
	);
	expect([...documents.values()].flatMap((one) => one.problems)).toEqual([]);
	const start = await startNames(workspace, 'e', { set: {}, secrets, run: unrecordedRun('e', 0) }, made);
	const { scenarios } = choose(workspace, { targets: [] });
	const rows = await openRows(scenarios, {}, made);
	const redactor = createRedactor(secrets);
	const context = {
		workspace,
		start,
		ports: made,
		evaluator: createEvaluator(),
		redactor,
		environment: 'e',
		agent: 'test',
		signal: undefined
	};
	const out: RehearsedStep[] = [];
	for await (const step of rehearse({ context, scenarios, rows, redactor, seed: 1 })) out.push(step);
	return out;
}
/** Pieces with what was filled in between ‹ and ›. */
const drawn = (segments: Segment[] | undefined): string =>
	(segments ?? []).map(({ text, fill }) => (fill === undefined ? text : `⟨${text}⟩`)).join('');
const bodyOf = (step: RehearsedStep) => (step.body && 'text' in step.body ? step.body.text : undefined);

describe('a rehearsal marks what is filled in', () => {
	test.each<[title: string, step: JsonObject, target: string, body: string | undefined]>([
		[
			'in the path and the query, encoded',
			{ send: 'GET /a/{$env.boat}?n={$env.size}' },
			'/⟨v1⟩/a/⟨Slow%20%22Tide%22%20%26%20Co⟩?n=⟨5⟩',
			undefined
		],
		['in path parameters', { send: 'GET /a/{id}/b', path: { id: '{$env.size}' } }, '/⟨v1⟩/a/⟨5⟩/b', undefined],
		[
			'at the beginning, with the slash that joins it to the base',
			{ send: "GET {$raw('/b?c=1')}" },
			'/⟨v1⟩/⟨b?c=1⟩',
			undefined
		],
		['at the beginning, without one', { send: 'GET {$env.size}/b' }, '/⟨v1⟩/⟨5⟩/b', undefined],
		['in an address of its own', { send: 'GET {$env.host}x' }, '/⟨v1/⟩x', undefined],
		[
			'in JSON, keeping types',
			{ send: 'POST /a', body: { json: { n: '{$env.size}', l: '{$env.list}', t: 'on {$env.boat}', k: 1 } } },
			'/⟨v1⟩/a',
			'{"n":⟨5⟩,"l":⟨[1,"a"]⟩,"t":"on ⟨Slow \\"Tide\\" & Co⟩","k":1}'
		],
		[
			'in JSON text, inside and outside quotes',
			{ send: 'POST /a', body: { json: '{ "n": {$env.size}, "t": "{$env.boat}" }' } },
			'/⟨v1⟩/a',
			'{ "n": ⟨5⟩, "t": "⟨Slow \\"Tide\\" & Co⟩" }'
		],
		[
			'in XML, beside octets that are not ASCII',
			{ send: 'POST /a', body: { xml: '<b ö="{$env.where}">{$env.boat}</b>' } },
			'/⟨v1⟩/a',
			'<b ö="⟨pröject⟩">⟨Slow &quot;Tide&quot; &amp; Co⟩</b>'
		],
		[
			'in a form',
			{ send: 'POST /a', body: { form: { b: '{$env.boat}', c: 'x y' } } },
			'/⟨v1⟩/a',
			'b=⟨Slow+%22Tide%22+%26+Co⟩&c=x+y'
		],
		['an empty value', { send: 'POST /a', body: { text: 'a{$substring("a", 5)}b' } }, '/⟨v1⟩/a', 'a⟨⟩b']
	])('%s', async (_, step, target, body) => {
		const [one] = await rehearsed([step]);
		expect(drawn(one!.pieces?.target)).toBe(target);
		expect(drawn(one!.pieces?.body)).toBe(body ?? '');
		const plain = bodyOf(one!);
		expect(plain).toBe(body?.replace(/[⟨⟩]/g, ''));
		// what is said to be sent is what marks were taken from
		if (plain !== undefined)
			expect(one!.headers).toContainEqual(['Content-Length', String(new TextEncoder().encode(plain).length)]);
		expect(JSON.stringify(one)).not.toMatch(/[\uFDD0-\uFDD3]|%EF%B7%9/i);
	});

	test('in header fields, of the step and of the connection, secrets masked', async () => {
		const headers = { 'X-Boat': '{$env.where} {$secret.key}' };
		const [one] = await rehearsed([{ send: 'GET /a', headers: { 'X-Size': 'n={$env.size}' } }], { headers });
		expect(one!.pieces?.headers.map(({ name, segments }) => `${name}: ${drawn(segments)}`)).toContain('X-Size: n=⟨5⟩');
		expect(one!.headers).toContainEqual(['X-Boat', expect.stringContaining('‹key›')]);
		expect(one!.pieces?.headers.map(({ name, segments }) => `${name}: ${drawn(segments)}`)).toContain(
			'X-Boat: ⟨prÃ¶ject⟩ ⟨‹key›⟩'
		);
		expect(JSON.stringify(one)).not.toContain('s3cret');
	});

	test('and says where each value is from', async () => {
		const [, one] = await rehearsed([
			{ set: { size: 7 } },
			{
				send: 'POST /{$env.url}/{$env.size}',
				body: { text: '{$secret.key} {$run.id} {$uuid()} {$env.where & $env.boat}' }
			}
		]);
		expect(one!.pieces!.fills.map(({ expression, from }) => `${expression} ← ${from.join(' + ')}`)).toEqual([
			'$env.url ← url: environments/e.yaml, computed as {$env.boat}/x',
			'$env.size ← size: a set step of this scenario',
			'$env.host ← host: heron.yaml',
			'$env.host ← host: heron.yaml',
			'$secret.key ← the secret key',
			'$run.id ← the run: id',
			'$uuid() ← computed when it is sent',
			'$env.where & $env.boat ← where: heron.yaml + boat: environments/e.yaml'
		]);
		expect(rehearsedText(one!)).toContain('# {$env.size} is from size: a set step of this scenario\n');
	});

	test('what an earlier step keeps stands under its name, and says so', async () => {
		const [, one] = await rehearsed([
			{ id: 'a', send: 'GET /a', keep: { id: '$.id' } },
			{ id: 'b', send: 'GET /a/{$steps.a.id}' }
		]);
		expect(drawn(one!.pieces?.target)).toBe('/⟨v1⟩/a/⟨‹a.id›⟩');
		expect(one!.pieces!.fills[0]!.from).toEqual(['step a, which keeps $.id as id']);
	});

	test('a value that holds what marks are made of does no harm', async () => {
		const [one] = await rehearsed([{ send: 'POST /a', body: { text: 'x{"a\uFDD0" & $env.size}\uFDD1y' } }]);
		expect(bodyOf(one!)).toBe('x{"a" & $env.size}y');
	});
});
