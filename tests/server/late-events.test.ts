import { Mirror } from '#server/folder/mirror.ts';
import { EventEmitter } from 'node:events';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import { expect, test, vi } from 'vitest';

// the real events, of a machine that is slow to begin with them
vi.mock('chokidar', async (original) => {
	const chokidar = await original<typeof import('chokidar')>();
	const watch: typeof chokidar.watch = (...given) => {
		const late = new EventEmitter();
		const watcher = setTimeout(500).then(() => {
			const real = chokidar.watch(...given);
			for (const name of ['all', 'ready', 'error'] as const)
				real.on(name, (...said: unknown[]) => void late.emit(name, ...said));
			return real;
		});
		return Object.assign(late, { close: async () => (await watcher).close() }) as unknown as ReturnType<typeof watch>;
	};
	return { ...chokidar, watch };
});

test('what is changed before the events of a folder are heard is told once they are', async () => {
	const dir = mkdtempSync(join(tmpdir(), 'heron-late-'));
	mkdirSync(join(dir, 'collections'));
	for (const name of ['heron.yaml', 'collections/a.yaml', 'collections/b.yaml', 'collections/c.yaml'])
		writeFileSync(join(dir, name), 'heron: 1\n');
	const reported: string[] = [];
	const mirror = await Mirror.open(dir, (paths) => reported.push(...paths));
	try {
		await mirror.list();
		writeFileSync(join(dir, 'collections/a.yaml'), 'heron: 1\ntitle: A\n');
		rmSync(join(dir, 'collections/b.yaml'));
		writeFileSync(join(dir, 'collections/d.yaml'), 'heron: 1\n');
		const changed = ['collections/a.yaml', 'collections/b.yaml', 'collections/d.yaml'];
		await vi.waitFor(() => expect(reported.sort()).toEqual(changed), 8000);
	} finally {
		await mirror.close();
		rmSync(dir, { recursive: true, force: true });
	}
});
