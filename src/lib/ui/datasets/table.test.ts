import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { undoable } from '../common/toast.svelte.ts';
import { TableState } from './table.svelte.ts';

const SLOW_MS = 2000;

/** A server with one dataset that takes its time, and takes what is newer than it knows as a conflict. */
class Server {
	revision = 1;
	stored: string[] = [];

	async handle(path: string, { method, body }: RequestInit = {}): Promise<Response> {
		if (method !== 'PUT') return Response.json({ revision: this.revision });
		const given = Number(new URL(path, 'http://localhost').searchParams.get('revision'));
		const text = await (body as Blob).text();
		if (given !== this.revision)
			return Response.json({ title: 'other', code: 'store.conflict', problems: [] }, { status: 409 });
		this.revision++;
		this.stored.push(text);
		await new Promise((resolve) => setTimeout(resolve, SLOW_MS));
		return Response.json({ revision: given + 1 });
	}
}

let server: Server;
let table: TableState;
beforeEach(() => {
	vi.useFakeTimers();
	server = new Server();
	vi.stubGlobal('fetch', (path: string, init?: RequestInit) => server.handle(path, init));
	table = new TableState('p', 'x.csv', 1, { titles: ['a', 'b'], rows: [{ a: '1', b: '2' }] });
});
afterEach(() => {
	vi.useRealTimers();
	vi.unstubAllGlobals();
});
const wait = (ms = 10_000) => vi.advanceTimersByTimeAsync(ms);

describe('a dataset that is edited', () => {
	test('is stored once at a time: what is typed while the server takes its time follows it', async () => {
		table.set(0, 'a', 'x');
		await wait(1000);
		table.set(0, 'b', 'y');
		await wait(1000);
		expect(server.stored).toEqual(['a,b\r\nx,2\r\n']);
		await wait();
		expect(server.stored).toEqual(['a,b\r\nx,2\r\n', 'a,b\r\nx,y\r\n']);
		expect(table.status).toBe('saved');
	});
	test('whoever is done with it waits for what is on its way', async () => {
		table.set(0, 'a', 'x');
		await wait(1000);
		expect(table.status).toBe('saving');
		expect(table.pending).toBe(true);
		let done = false;
		void table.save().then(() => (done = true));
		await wait(500);
		expect(done).toBe(false);
		await wait();
		expect(done).toBe(true);
		expect(table.pending).toBe(false);
	});
	test('that others wrote meanwhile waits for a decision, and mine goes over theirs', async () => {
		server.revision = 5;
		await table.refresh();
		expect(table.status).toBe('conflict');
		table.set(0, 'a', 'x');
		await wait();
		expect(server.stored).toEqual([]);
		void table.settle('mine');
		await wait();
		expect(server.stored).toEqual(['a,b\r\nx,2\r\n']);
		expect(table.status).toBe('saved');
	});
	test('theirs drops what stands here', async () => {
		server.revision = 5;
		table.set(0, 'a', 'x');
		await wait();
		const theirs = vi.fn();
		table.onTheirs = theirs;
		await table.settle('theirs');
		await wait();
		expect(theirs).toHaveBeenCalledOnce();
		expect(server.stored).toEqual([]);
		expect(table.pending).toBe(false);
	});
	test('a column that is called otherwise is, where it is used, with every undo and redo', () => {
		const said: string[] = [];
		table.renameColumn('b', 'c', { undo: () => said.push('back'), redo: () => said.push('again') });
		table.addRow();
		table.undo();
		expect(said).toEqual([]);
		table.undo();
		expect(table.titles).toEqual(['a', 'b']);
		table.redo();
		expect(said).toEqual(['back', 'again']);
	});
	test('undo is offered for a step as long as it is the last, and for none that changed nothing', () => {
		const nothing = undoable(table, () => table.set(0, 'a', '1'));
		expect(nothing).toBeUndefined();
		const offered = undoable(table, () => table.set(0, 'a', 'x'))!;
		expect(offered.holds!()).toBe(true);
		table.addRow();
		expect(offered.holds!()).toBe(false);
		table.undo();
		expect(offered.holds!()).toBe(true);
		offered.run();
		expect(table.rows).toEqual([{ a: '1', b: '2' }]);
	});
});
