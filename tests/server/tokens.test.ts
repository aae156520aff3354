import { statusOf } from '../../src/lib/server/respond.ts';
import { createStore, type Grant, type Store } from '#server/store/index.ts';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { judgeCaller, permits } from '../../src/lib/server/door.ts';

const publish: Grant = { project: 'locks', may: 'publish' };
const read: Grant = { project: 'locks', may: 'read' };
const both: Grant = { project: 'locks', may: 'both' };
const start: Grant = { project: 'locks', may: 'start' };

describe('what a token of a project lets somebody do', () => {
	test.each<[Grant, string, string, boolean]>([
		[publish, 'POST', '/api/projects/locks/published', true],
		[publish, 'GET', '/api/projects/locks/published', true],
		[publish, 'GET', '/api/projects/locks/past', true],
		[publish, 'GET', '/api/projects/locks', false],
		[publish, 'GET', '/api/projects/locks/export', false],
		[publish, 'POST', '/api/projects/locks/runs', false],
		[publish, 'POST', '/api/projects/locks2/published', false],
		[publish, 'POST', '/api/projects/other/published', false],
		[publish, 'GET', '/locks', false],
		[read, 'GET', '/api/projects/locks', true],
		[read, 'GET', '/api/projects/locks/history', true],
		[read, 'GET', '/api/projects/locks/past/step', true],
		[read, 'GET', '/api/projects/locks/export', true],
		[read, 'POST', '/api/projects/locks/published', false],
		[read, 'DELETE', '/api/projects/locks', false],
		[read, 'GET', '/api/projects/locks/secrets', false],
		[read, 'GET', '/api/projects/locks/tokens', false],
		[read, 'GET', '/api/projects/locks/../other/history', false],
		[read, 'GET', '/api/projects', false],
		[read, 'POST', '/api/projects/locks/start/nightly', false],
		[read, 'GET', '/api/projects/locks/changes', false],
		[both, 'GET', '/api/projects/locks/export', true],
		[both, 'POST', '/api/projects/locks/published', true],
		[both, 'POST', '/api/projects/locks/start/nightly', false],
		[both, 'POST', '/api/projects/locks/changes', false],
		[start, 'POST', '/api/projects/locks/start/nightly', true],
		[start, 'GET', '/api/projects/locks/start/nightly', true],
		[start, 'POST', '/api/projects/other/start/nightly', false],
		[start, 'GET', '/api/projects/locks/export', false],
		[start, 'POST', '/api/projects/locks/runs', false],
		[start, 'POST', '/api/projects/locks/published', false]
	])('%j %s %s: %s', (grant, method, path, wanted) => expect(permits(grant, method, path)).toBe(wanted));

	const caller = {
		at: '127.0.0.1',
		host: '127.0.0.1:4680',
		origin: null,
		method: 'POST',
		authorization: null,
		cookie: undefined
	};
	const settings = { hosts: ['heron.reedmere.example'], token: 'Lockkeeper-9' };
	const far = { ...caller, at: '10.1.2.3', host: 'heron.reedmere.example' };
	const path = '/api/projects/locks/published';
	test.each<[string, typeof caller, Parameters<typeof judgeCaller>[2], true | 401 | 403]>([
		['from elsewhere, for what it is for', far, { grant: publish, path }, true],
		['from elsewhere, for something else', far, { grant: publish, path: '/api/projects/locks/runs' }, 403],
		['one that has ended, from elsewhere', far, { grant: undefined, path }, 401],
		['one that has ended, on this machine', caller, { grant: undefined, path }, 401],
		['on this machine it lets do no more either', caller, { grant: read, path }, 403],
		['by a name that is not ours', { ...far, host: 'evil.example' }, { grant: publish, path }, 403]
	])('%s', (_, from, shown, wanted) => {
		const answer = judgeCaller(settings, from, shown);
		expect(answer.in ? true : statusOf(answer.error)).toBe(wanted);
	});
});

describe('where everybody is asked for a token', () => {
	const local = {
		at: '127.0.0.1',
		host: '127.0.0.1:4680',
		origin: null,
		method: 'GET',
		authorization: null,
		cookie: undefined
	};
	test.each<[string, Partial<typeof local> | { authorization: string } | { cookie: string }, boolean, true | 401]>([
		['who works at this machine comes in as long as nobody asks', {}, false, true],
		['and then not without one', {}, true, 401],
		['nor with another one', { authorization: 'Bearer other' }, true, 401],
		['but with it', { authorization: 'Bearer Lockkeeper-9' }, true, true],
		['or where a page was shown it once', { cookie: 'Lockkeeper-9' }, true, true]
	])('%s', (_, more, asks, wanted) => {
		const answer = judgeCaller({ hosts: [], token: 'Lockkeeper-9', asks }, { ...local, ...more } as never);
		expect(answer.in ? true : statusOf(answer.error)).toBe(wanted);
	});
});

describe('tokens in the store', () => {
	let dir: string;
	let store: Store;
	beforeAll(async () => {
		dir = mkdtempSync(join(tmpdir(), 'heron-tokens-'));
		store = await createStore(join(dir, 'heron.db'));
		for (const name of ['locks', 'other'])
			await store.files.replaceProject(name, [{ path: 'heron.yaml', bytes: Buffer.from('heron: 1\n') }]);
	});
	afterAll(async () => {
		await store.close();
		rmSync(dir, { recursive: true, force: true });
	});
	const make = (endsAt = Date.now() + 86_400_000) =>
		store.tokens.make('locks', { name: 'nightly', may: 'publish', endsAt });

	test('grant what they are for, until their end, and not after they are revoked', async () => {
		const { token, id } = await make();
		expect(token).toMatch(/^heron_[\w-]{43}$/);
		expect(await store.tokens.grantOf(token)).toEqual(publish);
		expect(await store.tokens.grantOf(`${token}x`)).toBeUndefined();
		expect(await store.tokens.grantOf(token, Date.now() + 86_400_001)).toBeUndefined();
		await expect(store.tokens.remove('other', id)).rejects.toThrow();
		await store.tokens.remove('locks', id);
		expect(await store.tokens.grantOf(token)).toBeUndefined();
	});
	test('say when they were last used, and never what they are', async () => {
		const { token, id } = await make();
		await store.tokens.grantOf(token);
		const [facts] = (await store.tokens.list('locks')).filter((one) => one.id === id);
		expect(facts!.usedAt).toBeGreaterThan(Date.now() - 5000);
		expect(JSON.stringify(facts)).not.toContain(token);
		for (const file of ['heron.db', 'heron.db-wal']) {
			const bytes = readFileSync(join(dir, file));
			expect(bytes.includes(token), file).toBe(false);
			expect(bytes.includes(token.slice('heron_'.length)), file).toBe(false);
		}
	});
	test('of a project that was removed are good for nothing', async () => {
		const { token } = await store.tokens.make('other', { name: 'n', may: 'read', endsAt: Date.now() + 1e6 });
		expect(await store.tokens.grantOf(token)).toEqual({ project: 'other', may: 'read' });
		await store.files.removeProject('other');
		expect(await store.tokens.grantOf(token)).toBeUndefined();
	});
});
