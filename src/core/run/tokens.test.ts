import { describe, expect, test } from 'vitest';
import { get, runScenarios, type Answer } from '../../../tests/support/scripted.ts';
import { writeJson, type JsonObject } from '../model/json.ts';

const TOKEN = 'qJ3kd-8fTz21-Lw0';
const bearer = { Authorization: 'Bearer {$steps.signIn.token}' };
/** Gives the token to who signs in, and says back what it was sent. */
const desk = ({ url, headers }: { url: string; headers: [string, string][] }): Answer =>
	url.endsWith('/sign-in')
		? { body: { token: TOKEN, short: '42', clerk: 'avery' } }
		: { body: { heard: headers.map(([name, value]) => `${name}: ${value}`) } };
const signIn = (keep: JsonObject = { token: '$.token' }) => get('signIn', { send: 'GET /sign-in', keep });
const scenario = (id: string, steps: JsonObject[], more: JsonObject = {}) => ({ id, steps, ...more });

describe('a kept value that is a token is hidden', () => {
	const hidden: [string, JsonObject[]][] = [
		['that goes into Authorization', [scenario('s', [signIn(), get('use', { headers: bearer })])]],
		[
			'that goes into Cookie',
			[scenario('s', [signIn(), get('use', { headers: { Cookie: 'id={$steps.signIn.token}' } })])]
		],
		['that goes into a cookie', [scenario('s', [signIn(), get('use', { cookies: { id: '{$steps.signIn.token}' } })])]],
		[
			'that goes there by a variable',
			[
				scenario('s', [
					signIn(),
					{ id: 'set', set: { mine: '{$steps.signIn.token}' } },
					get('use', { headers: { Authorization: 'Bearer {$env.mine}' } })
				])
			]
		],
		[
			'that a scenario keeps and another one uses',
			[
				scenario('s', [{ id: 'open', call: 'in' }, get('use', { headers: { Authorization: '{$steps.open.token}' } })]),
				scenario('in', [signIn()], { off: true })
			]
		],
		[
			'that a scenario gives under another name',
			[
				scenario('s', [{ id: 'open', call: 'in' }, get('use', { headers: { Authorization: '{$steps.open.pass}' } })]),
				scenario('in', [signIn()], { off: true, outputs: { pass: '{$steps.signIn.token}' } })
			]
		],
		[
			'that is handed to a scenario',
			[
				scenario('s', [signIn(), { id: 'call', call: 'with', with: { pass: '{$steps.signIn.token}' } }]),
				scenario('with', [get('use', { headers: { Authorization: '{$env.pass}' } })], {
					off: true,
					inputs: { pass: null }
				})
			]
		],
		[
			'that is marked',
			[
				scenario('s', [
					signIn({ token: { from: '$.token', secret: true } }),
					get('use', { query: { t: '{$steps.signIn.token}' } })
				])
			]
		]
	];
	test.each(hidden)('%s', async (_, scenarios) => {
		const { results, sent } = await runScenarios(scenarios, { answer: desk });
		expect(results.map(({ outcome }) => outcome).every((one) => one === 'passed')).toBe(true);
		// it is sent as it is
		expect(writeJson(sent.map(({ url, headers }) => ({ url, headers })) as never)).toContain(TOKEN);
		expect(inAll(results)).not.toContain(TOKEN);
	});
	test('its name stands in its place, and what it is made into is hidden as well', async () => {
		const { results } = await runScenarios(
			[
				scenario('s', [
					signIn(),
					get('use', { headers: { Authorization: 'Basic {$base64("a:" & $steps.signIn.token)}' } })
				])
			],
			{ answer: desk }
		);
		expect(results[0]!.kept).toEqual({ token: '‹signIn.token›' });
		expect(inAll(results)).not.toContain(Buffer.from(`a:${TOKEN}`).toString('base64').slice(4, -4));
	});
	test('a short one is hidden where it is kept, and nowhere else', async () => {
		const { results } = await runScenarios([scenario('s', [signIn({ pin: { from: '$.short', secret: true } })])], {
			answer: desk
		});
		expect(results[0]!.kept).toEqual({ pin: '‹signIn.pin›' });
		expect(bodyOf(results[0])).toContain('42');
	});
	const shown: [string, JsonObject[]][] = [
		['that goes elsewhere', [scenario('s', [signIn(), get('use', { query: { t: '{$steps.signIn.token}' } })])]],
		[
			'of which somebody says that it is none',
			[scenario('s', [signIn({ token: { from: '$.token', secret: false } }), get('use', { headers: bearer })])]
		],
		[
			'whose use is switched off',
			[
				scenario('s', [
					signIn(),
					get('use', { headers: { Authorization: { value: bearer.Authorization, off: true } } })
				])
			]
		]
	];
	test.each(shown)('but not one %s', async (_, scenarios) => {
		const { results } = await runScenarios(scenarios, { answer: desk });
		expect(results[0]!.kept).toEqual({ token: TOKEN });
	});
	test('only as long as its scenario goes on: a later one that meets its text by chance is not touched', async () => {
		const { results } = await runScenarios(
			[
				scenario('s', [signIn(), get('use', { headers: bearer })]),
				scenario('t', [get('other', { send: `GET /${TOKEN}` })])
			],
			{ answer: desk }
		);
		expect(results.at(-1)!.exchanges[0]!.url).toContain(TOKEN);
	});
});

type Results = Awaited<ReturnType<typeof runScenarios>>['results'];
const bodyOf = (result: Results[number] | undefined): string =>
	Buffer.from(result?.exchanges[0]?.reply?.body ?? []).toString();
const inAll = (results: Results): string =>
	writeJson(
		results.map(({ exchanges, ...rest }) => ({
			...rest,
			calls: exchanges.map(({ url, requestHeaders }) => ({ url, requestHeaders }))
		})) as never
	) + results.map(bodyOf).join('\n');
