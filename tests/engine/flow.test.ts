import { challengeOf, createFlow, createTokenKeeper, type Flow, type LegKey } from '#core/auth/index.ts';
import { createEngine, type Engine } from '#server/engine/index.ts';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { createSignOn } from '../../standins/sign-on/index.ts';
import { toolsOf } from '../support/credential.ts';

let server: Awaited<ReturnType<typeof createSignOn>>;
let engine: Engine;
let issuer: string;
const REDIRECT = 'http://127.0.0.1:1/oauth/callback';
beforeAll(async () => {
	server = await createSignOn();
	issuer = await server.listen({ host: '127.0.0.1', port: 0 });
	engine = createEngine();
});
afterAll(async () => {
	engine.close();
	await server.close();
});

function begin(given: object = {}, tokens = createTokenKeeper()): Flow {
	const ports = engine.ports({ seed: 1 });
	const session = ports.openSession();
	const { tools } = toolsOf({
		now: Date.now(),
		tokens,
		async leg(title, request) {
			const { exchanges, error } = await ports.send(request, session, undefined);
			if (error) throw error;
			return { ...exchanges.at(-1)!, leg: title };
		}
	});
	return createFlow(
		{ grant: 'authorization-code', issuer, clientId: 'workbench', scope: 'gauges', ...given },
		tools,
		REDIRECT
	);
}
const leg = (flow: Flow, key: LegKey) => flow.view().legs.find((one) => one.key === key)!;
const states = (flow: Flow) => Object.fromEntries(flow.view().legs.map(({ key, state }) => [key, state]));
/** What somebody decides on the consent page; gives what came back. */
async function decide(flow: Flow, decision: string): Promise<string> {
	const asked = Object.fromEntries(new URL(leg(flow, 'consent').link!).searchParams);
	const reply = await fetch(`${issuer}/authorize`, {
		method: 'POST',
		redirect: 'manual',
		body: new URLSearchParams({ ...asked, user: 'avery', decision })
	});
	return new URL(reply.headers.get('location')!).search.slice(1);
}

describe('a consent', () => {
	test('goes leg by leg: each opens the next one, the optional ones open with the token', async () => {
		const flow = begin();
		expect(states(flow)).toMatchObject({ metadata: 'open', consent: 'later', token: 'later', refresh: 'later' });
		await flow.act('metadata');
		expect(states(flow)).toMatchObject({ metadata: 'done', consent: 'open' });
		await flow.act('consent');
		const link = new URL(leg(flow, 'consent').link!);
		expect(Object.fromEntries(link.searchParams)).toMatchObject({
			...{ response_type: 'code', client_id: 'workbench', redirect_uri: REDIRECT, scope: 'gauges' },
			...{ state: flow.state, code_challenge_method: 'S256' }
		});
		await flow.callback(await decide(flow, 'allow'));
		expect(states(flow)).toMatchObject({ consent: 'done', token: 'open' });
		await flow.act('token');
		expect(states(flow)).toMatchObject({ token: 'done', refresh: 'open', introspect: 'open', revoke: 'open' });
		await flow.act('introspect');
		expect(Object.fromEntries(leg(flow, 'introspect').facts)).toMatchObject({ active: 'true', username: 'avery' });
		await flow.act('revoke');
		expect(flow.view().token).toBeUndefined();
		expect(states(flow)).toMatchObject({ revoke: 'done', refresh: 'later', introspect: 'later' });
	});
	test('shows the code nowhere', async () => {
		const flow = begin();
		await flow.act('metadata');
		await flow.act('consent');
		const back = await decide(flow, 'allow');
		await flow.callback(back);
		expect(JSON.stringify(leg(flow, 'consent'))).not.toContain(new URLSearchParams(back).get('code'));
	});
	test.each<[string, (back: URLSearchParams) => void, RegExp]>([
		['a strange state', (back) => back.set('state', 'of another'), /state/],
		['no state', (back) => back.delete('state'), /state/],
		['another issuer', (back) => back.set('iss', 'https://other.reedmere.example'), /it comes from https:\/\/other/],
		['no code', (back) => back.delete('code'), /no code/]
	])('with %s is of no use', async (_, change, message) => {
		const flow = begin();
		await flow.act('metadata');
		await flow.act('consent');
		const back = new URLSearchParams(await decide(flow, 'allow'));
		change(back);
		await expect(flow.callback(String(back))).rejects.toThrow(message);
		expect(leg(flow, 'consent')).toMatchObject({ state: 'failed' });
		expect(states(flow).token).toBe('later');
	});
	test('that is refused says so in the server’s words', async () => {
		const flow = begin();
		await flow.act('metadata');
		await flow.act('consent');
		await expect(flow.callback(await decide(flow, 'refuse'))).rejects.toThrow(/Consent was refused on the page/);
	});
	test('that comes back twice is taken once', async () => {
		const flow = begin();
		await flow.act('metadata');
		await flow.act('consent');
		const back = await decide(flow, 'allow');
		await flow.callback(back);
		await expect(flow.callback(back)).rejects.toThrow(/already/);
		await flow.act('token');
		expect(flow.view().token).toBeDefined();
	});
	test('without PKCE, or with the plain one, sends what it says', async () => {
		for (const [pkce, method] of [
			['plain', 'plain'],
			['none', null]
		] as const) {
			const flow = begin({ pkce });
			await flow.act('metadata');
			await flow.act('consent');
			expect(new URL(leg(flow, 'consent').link!).searchParams.get('code_challenge_method')).toBe(method);
		}
	});
	test('sends further parameters, audience and resources along', async () => {
		const flow = begin({
			audience: 'gauges',
			resource: ['https://a.example/', 'https://b.example/'],
			authorizeExtra: { prompt: 'login' }
		});
		await flow.act('metadata');
		await flow.act('consent');
		const { searchParams } = new URL(leg(flow, 'consent').link!);
		expect(searchParams.get('audience')).toBe('gauges');
		expect(searchParams.getAll('resource')).toEqual(['https://a.example/', 'https://b.example/']);
		expect(searchParams.get('prompt')).toBe('login');
	});
});

describe('a leg', () => {
	test('that comes later is not done before its time', async () => {
		await expect(begin().act('token')).rejects.toThrow(/comes later/);
	});
	test('whose server is away fails with what is wrong, and can be tried again', async () => {
		const flow = begin({ issuer: 'http://127.0.0.1:9' });
		await flow.act('metadata');
		expect(leg(flow, 'metadata')).toMatchObject({ state: 'failed' });
		expect(leg(flow, 'metadata').error).toMatch(/127\.0\.0\.1:9/);
		await flow.act('metadata');
		expect(leg(flow, 'metadata').state).toBe('failed');
	});
	test('of a server with metadata of somebody else fails', async () => {
		const flow = begin({ issuer: `${issuer}/odd/issuer` });
		await flow.act('metadata');
		expect(leg(flow, 'metadata').error).toMatch(/other\.reedmere\.example/);
	});
	test('that the server does not offer is not offered', async () => {
		const flow = begin({
			...{ grant: 'client-credentials', issuer: '', tokenEndpoint: `${issuer}/token` },
			...{ clientId: 'gauge-reader', clientSecret: 'reed-bed-3', revocationEndpoint: `${issuer}/revoke` }
		});
		await flow.act('token');
		expect(states(flow)).toMatchObject({ token: 'done', introspect: 'later', revoke: 'open' });
		expect(leg(flow, 'introspect').facts).toEqual([['not offered', 'the server names no introspection endpoint']]);
	});
	test('takes up a token that was kept, unless its settings were others', async () => {
		const tokens = createTokenKeeper();
		const given = { grant: 'client-credentials', clientId: 'gauge-reader', clientSecret: 'reed-bed-3' };
		const first = begin(given, tokens);
		await first.act('metadata');
		await first.act('token');
		expect(begin(given, tokens).view().token?.reply).toEqual(first.view().token!.reply);
		expect(begin({ ...given, scope: 'tolls' }, tokens).view().token).toBeUndefined();
	});
});

describe('a device', () => {
	test('is asked for a code, waits at the server’s pace, and has its token', async () => {
		const flow = begin({ grant: 'device-code' });
		await flow.act('metadata');
		await flow.act('device');
		const facts = Object.fromEntries(leg(flow, 'confirm').facts);
		expect(facts.code).toMatch(/^\d{4}-\d{4}$/);
		expect(flow.view().pollEvery).toBe(1000);
		await flow.act('confirm');
		expect(leg(flow, 'confirm')).toMatchObject({ state: 'waiting' });
		await flow.act('confirm');
		// asked too soon: slower from now on (RFC 8628 section 3.5)
		expect(flow.view().pollEvery).toBe(6000);
		await fetch(`${issuer}/device/confirm`, {
			method: 'POST',
			body: new URLSearchParams({ user_code: facts.code!, decision: 'allow' })
		});
		await flow.act('confirm');
		expect(states(flow)).toMatchObject({ confirm: 'done', token: 'done' });
		expect(flow.view().pollEvery).toBeUndefined();
	});
	test('that is turned away says so', async () => {
		const flow = begin({ grant: 'device-code' });
		await flow.act('metadata');
		await flow.act('device');
		const { code } = Object.fromEntries(leg(flow, 'confirm').facts);
		await fetch(`${issuer}/device/confirm`, {
			method: 'POST',
			body: new URLSearchParams({ user_code: code!, decision: 'refuse' })
		});
		await flow.act('confirm');
		expect(leg(flow, 'confirm')).toMatchObject({ state: 'failed' });
		expect(leg(flow, 'confirm').error).toMatch(/access_denied/);
	});
});

test('a challenge is the digest of its verifier (RFC 7636 appendix B)', () => {
	expect(challengeOf('dBjftJeZ4CVP-mB92K27uhbUJU1p1r_wW1gFWFOEjXk', 'S256')).toBe(
		'E9Melhoa2OwvFrEMTJguCHaoeK1t8URWbuGJSstw-cM'
	);
});
