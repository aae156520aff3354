import { HeronError, textOf } from '#core/errors.ts';
import { Mirror } from '#server/folder/mirror.ts';
import type { FileStore, StoredFile } from '#server/store/index.ts';
import { setImmediate } from 'node:timers/promises';

/** A file that is another one than the store has; without bytes it is not there any more. */
export interface Changed {
	path: string;
	bytes?: Buffer;
}

const AWAY = 'its folder holds no heron.yaml: what is here is what was read last';
/** The longest that looking through a folder keeps others waiting, in milliseconds. */
const HELD_MS = 25;

const same = (a: Buffer | undefined, b: Buffer | undefined): boolean =>
	a === undefined || b === undefined ? a === b : a.equals(b);

type Known = ReadonlyMap<string, Pick<StoredFile, 'bytes'>>;

/** The folders that projects are. The store keeps a copy of their files, which follows them. */
export class Folders {
	readonly #store: FileStore;
	readonly #onChange: (project: string, paths: string[]) => void;
	readonly #mirrors = new Map<string, Promise<Mirror>>();
	readonly #troubles = new Map<string, string>();
	readonly #projects = new WeakMap<Mirror, string>();

	/** @param onChange hears which files of a project may have changed */
	constructor(store: FileStore, onChange: (project: string, paths: string[]) => void) {
		this.#store = store;
		this.#onChange = onChange;
	}

	/** The folder of a project, watched from now on; undefined when it is none. */
	async of(project: string): Promise<Mirror | undefined> {
		let found = this.#mirrors.get(project);
		if (!found) {
			const dir = await this.#store.folderOf(project);
			if (!dir) return undefined;
			found = this.#mirrors.get(project) ?? Mirror.open(dir, (paths) => this.#onChange(project, paths));
			this.#mirrors.set(project, found);
			found.catch(() => this.#mirrors.delete(project));
		}
		const mirror = await found;
		this.#projects.set(mirror, project);
		return mirror;
	}

	/** What of all files is another one than is known; nothing while the folder is away. */
	async changes(mirror: Mirror, known: Known): Promise<Changed[]> {
		const project = this.#projects.get(mirror)!;
		try {
			const there = await mirror.list();
			if (!there.has('heron.yaml')) throw new HeronError('folder.failed', { path: mirror.dir, detail: AWAY });
			this.#troubles.delete(project);
			return await this.changed(mirror, new Set([...there.keys(), ...known.keys()]), known);
		} catch (error) {
			this.#troubles.set(project, textOf(error));
			return [];
		}
	}

	/** What of some files is another one than is known. */
	async changed(mirror: Mirror, paths: Iterable<string>, known: Known): Promise<Changed[]> {
		const project = this.#projects.get(mirror)!;
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
		if (gone) this.#troubles.set(project, AWAY);
		else this.#troubles.delete(project);
		return gone ? [] : out;
	}

	/** Why the folder of a project cannot be used; empty when it can. */
	trouble(project: string): string {
		return this.#troubles.get(project) ?? '';
	}

	async forget(project: string): Promise<void> {
		const mirror = this.#mirrors.get(project);
		this.#mirrors.delete(project);
		this.#troubles.delete(project);
		await (await mirror?.catch(() => undefined))?.close();
	}

	async close(): Promise<void> {
		await Promise.all([...this.#mirrors.keys()].map((project) => this.forget(project)));
	}
}
