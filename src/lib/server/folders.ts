import { HeronError, textOf } from '#core/errors.ts';
import { Mirror } from '#server/folder/mirror.ts';
import type { FileStore, StoredFile } from '#server/store/index.ts';
import { setImmediate } from 'node:timers/promises';

/** A file that is another one than the store has; without bytes it is not there any more. */
export interface Changed {
	path: string;
	bytes?: Buffer;
}

/** The folders that projects are. The store keeps a copy of their files, which follows them. */
export interface Folders {
	/** The folder of a project, watched from now on; undefined when it is none. */
	of(project: string): Promise<Mirror | undefined>;
	/** What of all files is another one than is known; nothing while the folder is away. */
	changes(mirror: Mirror, known: ReadonlyMap<string, Pick<StoredFile, 'bytes'>>): Promise<Changed[]>;
	/** What of some files is another one than is known. */
	changed(
		mirror: Mirror,
		paths: Iterable<string>,
		known: ReadonlyMap<string, Pick<StoredFile, 'bytes'>>
	): Promise<Changed[]>;
	/** Why the folder of a project cannot be used; empty when it can. */
	trouble(project: string): string;
	forget(project: string): Promise<void>;
	close(): Promise<void>;
}

const AWAY = 'its folder holds no heron.yaml: what is here is what was read last';
/** The longest that looking through a folder keeps others waiting, in milliseconds. */
const HELD_MS = 25;

const same = (a: Buffer | undefined, b: Buffer | undefined): boolean =>
	a === undefined || b === undefined ? a === b : a.equals(b);

/** @param onChange hears which files of a project may have changed */
export function createFolders(store: FileStore, onChange: (project: string, paths: string[]) => void): Folders {
	const mirrors = new Map<string, Promise<Mirror>>();
	const troubles = new Map<string, string>();
	const projectOf = new WeakMap<Mirror, string>();

	const folders: Folders = {
		async of(project) {
			let found = mirrors.get(project);
			if (!found) {
				const dir = await store.folderOf(project);
				if (!dir) return undefined;
				found = mirrors.get(project) ?? Mirror.open(dir, (paths) => onChange(project, paths));
				mirrors.set(project, found);
				found.catch(() => mirrors.delete(project));
			}
			const mirror = await found;
			projectOf.set(mirror, project);
			return mirror;
		},
		async changes(mirror, known) {
			const project = projectOf.get(mirror)!;
			try {
				const there = await mirror.list();
				if (!there.has('heron.yaml')) throw new HeronError('folder.failed', { path: mirror.dir, detail: AWAY });
				troubles.delete(project);
				return await folders.changed(mirror, new Set([...there.keys(), ...known.keys()]), known);
			} catch (error) {
				troubles.set(project, textOf(error));
				return [];
			}
		},
		async changed(mirror, paths, known) {
			const project = projectOf.get(mirror)!;
			const out: Changed[] = [];
			let began = performance.now();
			for (const path of paths) {
				const bytes = await mirror.read(path);
				if (same(bytes, known.get(path)?.bytes)) continue;
				out.push(bytes ? { path, bytes } : { path });
				if (performance.now() - began < HELD_MS) continue;
				await setImmediate();
				began = performance.now();
			}
			// a folder that is away, or a branch that holds no project, takes nothing from the copy
			const gone = out.some(({ bytes }) => bytes === undefined) && (await mirror.read('heron.yaml')) === undefined;
			if (gone) troubles.set(project, AWAY);
			else troubles.delete(project);
			return gone ? [] : out;
		},
		trouble: (project) => troubles.get(project) ?? '',
		async forget(project) {
			const mirror = mirrors.get(project);
			mirrors.delete(project);
			troubles.delete(project);
			await (await mirror?.catch(() => undefined))?.close();
		},
		async close() {
			await Promise.all([...mirrors.keys()].map((project) => folders.forget(project)));
		}
	};
	return folders;
}
