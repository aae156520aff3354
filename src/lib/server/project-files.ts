import { HeronError, textOf } from '#core/errors.ts';
import { loadDocument, type LoadedDocument } from '#core/project/index.ts';
import type { Mirror } from '#server/folder/mirror.ts';
import type { FileChange, FileStore, StoredFile } from '#server/store/index.ts';
import { setImmediate } from 'node:timers/promises';
import { assemble, assembled, HELD_MS, type OpenProject } from './assemble.ts';
import { Folders, type Changed } from './folders.ts';

/** The files of projects that are open: read once and kept, together with the folders that projects are. */
export class ProjectFiles {
	readonly #store: FileStore;
	readonly #open = new Map<string, Promise<OpenProject>>();
	readonly #ears = new Map<string, Set<(paths: string[]) => void>>();
	readonly #watchers = new Map<string, Set<() => void>>();
	readonly #folders: Folders;
	/** Projects whose folder could not even be opened, and why. */
	readonly #away = new Map<string, string>();
	/** What is written, and what is read from a folder, goes one after the other. */
	readonly #turns = new Map<string, Promise<unknown>>();

	constructor(store: FileStore) {
		this.#store = store;
		this.#folders = new Folders(store, (name, paths) => void this.#hear(name, paths));
	}

	/** Carries out work on a project after what was begun earlier. */
	inTurn<T>(name: string, work: () => Promise<T>): Promise<T> {
		const turns = this.#turns;
		const next = (turns.get(name) ?? Promise.resolve()).then(work, work);
		const settled = next.catch(() => {});
		turns.set(name, settled);
		void settled.then(() => turns.get(name) === settled && turns.delete(name));
		return next;
	}

	/** @throws HeronError request.notFound */
	get(name: string): Promise<OpenProject> {
		let project = this.#open.get(name);
		if (!project) {
			project = this.#load(name);
			this.#open.set(name, project);
			project.catch(() => this.#open.delete(name));
		}
		return project;
	}

	async #load(name: string): Promise<OpenProject> {
		const known = (await this.#store.projects()).includes(name) ? await this.#store.list(name) : [];
		const stored = await this.#withFolder(name, known);
		if (stored.length === 0) throw new HeronError('request.notFound', { what: `the project "${name}"` });
		return assembled(name, stored);
	}

	/** The stored files of a project, with what has changed in its folder. */
	async #withFolder(name: string, stored: StoredFile[]): Promise<StoredFile[]> {
		const mirror = await this.#folders.of(name).catch((error: unknown) => {
			// a folder that is away: the copy is shown, and says so
			this.#away.set(name, textOf(error));
			return undefined;
		});
		if (!mirror) return stored;
		this.#away.delete(name);
		const known = new Map(stored.map((file) => [file.path, file]));
		await this.#keep(name, await this.#folders.changes(mirror, known), known);
		return [...known.values()].sort((a, b) => (a.path < b.path ? -1 : 1));
	}

	/** Writes and removes files, all of them or none. @param documents those that are read already @throws HeronError store.conflict, folder.failed */
	async put(
		name: string,
		changes: FileChange[],
		documents: ReadonlyMap<string, LoadedDocument> = new Map()
	): Promise<StoredFile[]> {
		const project = await this.get(name);
		for (const { path, base } of changes) {
			const mirror = await this.#inUse(name, path);
			const current = project.files.get(path)?.revision ?? 0;
			if (mirror && current !== base) throw new HeronError('store.conflict', { current, base });
		}
		const revisions = await this.#change(name, project, changes);
		const written = changes.flatMap(({ path, bytes }, index): StoredFile[] => {
			if (!bytes) {
				project.files.delete(path);
				project.documents.delete(path);
				return [];
			}
			const file = { path, bytes: Buffer.from(bytes), revision: revisions[index]! };
			project.files.set(path, file);
			const loaded = documents.get(path) ?? loadDocument(path, file.bytes.toString('utf8'));
			if (loaded) project.documents.set(path, loaded);
			return [file];
		});
		assemble(project, changes.length === 1 ? written[0]?.path : undefined);
		this.#tellWatchers(name);
		return written;
	}

	/** Changes a folder and the store; gives the revisions. */
	async #change(name: string, { files }: OpenProject, changes: FileChange[]): Promise<number[]> {
		const before = changes.map(({ path }) => files.get(path)?.bytes);
		const mirror = await this.#folders.of(name);
		const onDisk = async (list: { path: string; bytes?: Uint8Array | undefined }[]) => {
			for (const { path, bytes } of list) await (bytes ? mirror?.write(path, bytes) : mirror?.remove(path));
		};
		try {
			await onDisk(changes);
			return await this.#store.change(name, changes);
		} catch (error) {
			// the folder is as it was, where that can be had
			if (mirror && changes.length > 1)
				await onDisk(changes.map(({ path }, index) => ({ path, bytes: before[index] }))).catch(() => {});
			throw error;
		}
	}

	/** Takes changes of a folder into the store. */
	async #keep(name: string, changes: Changed[], known: Map<string, StoredFile>): Promise<void> {
		// a path may have been looked at twice: by its folder, and because it was known
		const byPath = new Map(changes.map((one) => [one.path, one]));
		const news = [...byPath.values()].filter(({ path, bytes }) => bytes !== undefined || known.has(path));
		if (news.length === 0) return;
		// what changed together, by a switch of branches for instance, is one change
		const revisions = await this.#store.change(
			name,
			news.map(({ path, bytes }) => ({ path, bytes, base: known.get(path)?.revision ?? 0 }))
		);
		news.forEach(({ path, bytes }, index) => {
			if (bytes) known.set(path, { path, bytes, revision: revisions[index]! });
			else known.delete(path);
		});
	}

	/** Takes what has changed in a folder into a project that is open, and tells whoever listens. */
	async #take(name: string, project: OpenProject, mirror: Mirror, paths: string[]): Promise<void> {
		const changes = await this.#folders.changed(mirror, paths, project.files);
		if (changes.length === 0) return;
		await this.#keep(name, changes, project.files);
		let began = performance.now();
		for (const { path, bytes } of changes) {
			const document = bytes && loadDocument(path, bytes.toString('utf8'));
			if (document) project.documents.set(path, document);
			else project.documents.delete(path);
			if (performance.now() - began < HELD_MS) continue;
			await setImmediate();
			began = performance.now();
		}
		assemble(project);
		for (const ear of this.#ears.get(name) ?? []) ear(changes.map(({ path }) => path));
		this.#tellWatchers(name);
	}

	async #hear(name: string, paths: string[]): Promise<void> {
		await this.inTurn(name, async () => {
			const mirror = await this.#folders.of(name);
			if (mirror && this.#open.has(name)) await this.#take(name, await this.get(name), mirror, paths);
		}).catch((error: unknown) => console.error(`the folder of ${name} could not be read: ${textOf(error)}`));
	}

	/** The folder of a project, with what has changed at a path taken first: what is written meets it as a conflict. */
	async #inUse(name: string, path: string): Promise<Mirror | undefined> {
		const mirror = await this.#folders.of(name);
		if (!mirror) return undefined;
		const project = await this.get(name);
		// back again: all that was changed meanwhile
		const all = this.#away.delete(name) && [...(await mirror.list()).keys(), ...project.files.keys()];
		const paths = all ? [...new Set(all)] : [path];
		await this.#take(name, project, mirror, paths);
		const trouble = this.#folders.trouble(name);
		if (trouble) throw new HeronError('folder.failed', { path: mirror.dir, detail: trouble });
		return mirror;
	}

	/** From now on changes of the project's folder are heard. @throws HeronError folder.failed */
	async follow(name: string): Promise<void> {
		await this.#folders.of(name);
	}

	/** The folder of a project is none any more. */
	async leave(name: string): Promise<void> {
		await this.#folders.forget(name);
		this.#away.delete(name);
	}

	/** Why the folder of a project cannot be used; empty when it can. */
	trouble(name: string): string {
		return this.#away.get(name) ?? this.#folders.trouble(name);
	}

	/** The project is no more: neither its files nor its folder are held. */
	async forget(name: string): Promise<void> {
		await this.#folders.forget(name);
		this.#open.delete(name);
	}

	/** Hears which files of a project have changed in its folder. Gives a function that ends it. */
	listen(name: string, ear: (paths: string[]) => void): () => void {
		const own = this.#ears.get(name) ?? new Set();
		this.#ears.set(name, own.add(ear));
		return () => {
			own.delete(ear);
			if (own.size === 0) this.#ears.delete(name);
		};
	}

	/** Hears that files of a project are others now, by whatever way. Gives a function that ends it. */
	watch(name: string, hear: () => void): () => void {
		const own = this.#watchers.get(name) ?? new Set();
		this.#watchers.set(name, own.add(hear));
		return () => void own.delete(hear);
	}

	/** The project was put in another's place: it is read anew, and whoever watches it is told. */
	replaced(name: string): void {
		this.#open.delete(name);
		this.#tellWatchers(name);
	}

	#tellWatchers(name: string): void {
		for (const hear of this.#watchers.get(name) ?? []) hear();
	}

	close(): Promise<void> {
		return this.#folders.close();
	}
}
