import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import type { Json } from '#core/model/json.ts';
import { DocumentState } from './document.svelte.ts';
import { storeAll } from './saving.svelte.ts';

/** A server with one document; a test decides how it answers the next save. */
class Server {
	revision = 1;
	value: Json = { title: 'a', steps: ['x'] };
	saves: Json[] = [];
	next: 'take' | 'conflict' | 'trouble' = 'take';

	async handle(_: string, init: RequestInit = {}): Promise<Response> {
		if (init.method !== 'PUT') return Response.json({ revision: this.revision, value: this.value, problems: [] });
		const { value, revision } = JSON.parse(String(init.body)) as { value: Json; revision: number };
		const problem = (status: number, code: string) => Response.json({ title: code, code, problems: [] }, { status });
		if (this.next === 'trouble') return problem(503, 'store.readOnly');
		if (this.next === 'conflict' || revision !== this.revision) return problem(409, 'store.conflict');
		this.saves.push(value);
		this.value = value;
		return Response.json({ revision: ++this.revision, problems: [] });
	}
}

let server: Server;
let document: DocumentState;
beforeEach(() => {
	vi.useFakeTimers();
	server = new Server();
	vi.stubGlobal('fetch', (path: string, init?: RequestInit) => server.handle(path, init));
	document = new DocumentState('p', 'suites/s.yaml', { revision: 1, value: server.value, problems: [] });
});
afterEach(() => {
	vi.useRealTimers();
	vi.unstubAllGlobals();
});
const wait = (ms = 1000) => vi.advanceTimersByTimeAsync(ms);

describe('a document on the screen', () => {
	test('is saved by itself, once for a stretch of typing', async () => {
		for (const title of ['b', 'bo', 'boo', 'book']) document.set(['title'], title);
		expect(document.status).toBe('waiting');
		await wait();
		expect(server.saves).toEqual([{ title: 'book', steps: ['x'] }]);
		expect(document.status).toBe('saved');
	});
	test('does not count as saved while what was pressed is still read', async () => {
		let read = () => {};
		const done = document.during(
			new Promise<void>((resolve) => (read = resolve)).then(() => document.set(['title'], 'read'))
		);
		expect(document.settled).toBe(false);
		read();
		await done;
		expect(document.settled).toBe(false);
		await wait();
		expect(document.settled).toBe(true);
		expect(server.saves).toEqual([{ title: 'read', steps: ['x'] }]);
	});
	test('what is typed while it is being saved is saved after it', async () => {
		document.set(['title'], 'b');
		const saving = document.save();
		document.set(['title'], 'c');
		await saving;
		await wait();
		expect(server.saves.map((value) => (value as { title: string }).title)).toEqual(['b', 'c']);
	});
	/** Somebody is in a field; each call is another one. */
	const enter = (tagName: string) => vi.stubGlobal('document', { activeElement: { tagName } });
	test('typing in one place is one step of undo, each place its own', () => {
		enter('INPUT');
		document.set(['title'], 'b');
		document.set(['title'], 'bo');
		document.set(['steps', 0], 'y');
		document.undo();
		expect(document.value).toEqual({ title: 'bo', steps: ['x'] });
		document.undo();
		expect(document.value).toEqual({ title: 'a', steps: ['x'] });
		document.redo();
		document.redo();
		expect(document.value).toEqual({ title: 'bo', steps: ['y'] });
		expect(document.canRedo).toBe(false);
	});
	test('what is pressed is a step of its own, however fast, and so is what is typed into another field of a form', () => {
		enter('BUTTON');
		document.set(['steps'], ['least']);
		document.set(['steps'], ['all']);
		document.undo();
		expect(document.value).toEqual({ title: 'a', steps: ['least'] });
		enter('INPUT');
		document.set(['steps'], ['leas']);
		document.set(['steps'], ['lea']);
		enter('INPUT');
		document.set(['steps'], ['lea', 'f']);
		document.undo();
		expect(document.value).toEqual({ title: 'a', steps: ['lea'] });
		document.undo();
		expect(document.value).toEqual({ title: 'a', steps: ['least'] });
	});
	test('an edit after an undo forgets what could have been done again', () => {
		document.set(['title'], 'b');
		document.undo();
		document.set(['title'], 'c');
		expect(document.canRedo).toBe(false);
		document.undo();
		expect(document.value).toMatchObject({ title: 'a' });
	});
	test('an edit that changes nothing is none', async () => {
		document.set(['title'], 'a');
		expect(document.canUndo).toBe(false);
		await wait();
		expect(server.saves).toEqual([]);
	});
	test('undo is saved too', async () => {
		document.set(['title'], 'b');
		await wait();
		document.undo();
		await wait();
		expect(server.value).toMatchObject({ title: 'a' });
	});
	test('trouble is said and tried again until it is saved', async () => {
		server.next = 'trouble';
		document.set(['title'], 'b');
		await wait();
		expect(document.status).toBe('trouble');
		expect(document.value).toMatchObject({ title: 'b' });
		server.next = 'take';
		await wait(4000);
		expect(document.status).toBe('saved');
		expect(server.value).toMatchObject({ title: 'b' });
	});
	test('a conflict stops saving, and nothing is written until it is settled', async () => {
		server.revision = 5;
		document.set(['title'], 'mine');
		await wait();
		expect(document.status).toBe('conflict');
		document.set(['title'], 'mine still');
		await wait(10_000);
		expect(server.saves).toEqual([]);
		await document.settle('mine');
		await wait();
		expect(server.value).toMatchObject({ title: 'mine still' });
	});
	test('taking theirs can be taken back', async () => {
		server.revision = 5;
		server.value = { title: 'theirs', steps: [] };
		document.set(['title'], 'mine');
		await wait();
		await document.settle('theirs');
		expect(document.value).toEqual({ title: 'theirs', steps: [] });
		document.undo();
		expect(document.value).toMatchObject({ title: 'mine' });
	});
	test('what another page saved is shown when nothing waits here', async () => {
		server.revision = 2;
		server.value = { title: 'newer', steps: [] };
		await document.refresh();
		expect(document.value).toMatchObject({ title: 'newer' });
		document.set(['title'], 'typed');
		server.revision = 3;
		await document.refresh();
		expect(document.value).toMatchObject({ title: 'typed' });
	});
	test('a server that is away loses nothing', async () => {
		vi.stubGlobal('fetch', () => Promise.reject(new TypeError('fetch failed')));
		document.set(['title'], 'b');
		await wait();
		expect(document.status).toBe('trouble');
		expect(document.trouble).toContain('the server does not answer');
		vi.stubGlobal('fetch', (path: string, init?: RequestInit) => server.handle(path, init));
		await wait(4000);
		expect(server.value).toMatchObject({ title: 'b' });
	});
});

describe('what goes by the documents of a project', () => {
	test('waits until all that was changed is stored', async () => {
		const at = (path: string) => new DocumentState('own', path, { revision: 1, value: { title: 'a' }, problems: [] });
		const [one, other] = [at('suites/s.yaml'), at('suites/t.yaml')];
		one.set(['title'], 'b');
		await storeAll('own');
		server.revision = 1;
		other.set(['title'], 'c');
		expect(other.pending).toBe(true);
		await storeAll('own');
		expect(server.saves).toEqual([{ title: 'b' }, { title: 'c' }]);
		expect(one.pending || other.pending).toBe(false);
	});
	test('is told what could not be stored, and is not held up by another project', async () => {
		server.next = 'trouble';
		document.set(['title'], 'b');
		await expect(storeAll('p')).rejects.toThrow('suites/s.yaml is not stored yet: store.readOnly');
		await storeAll('q');
		server.next = 'take';
		await wait(5000);
		await storeAll('p');
	});
});
