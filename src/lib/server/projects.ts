import { HeronError, textOf } from '#core/errors.ts';
import { projectName } from '#core/begin/index.ts';
import { editYaml } from '#core/model/edit.ts';
import { freeName } from '#core/model/path.ts';
import { LOCAL_FILE } from '#core/model/local.ts';
import { same, type Json } from '#core/model/json.ts';
import { kindOfFile } from '#core/model/kinds.ts';
import { isUnreadable } from '#core/model/yaml.ts';
import {
	documentProblems,
	documentWarnings,
	isProjectFile,
	loadDocument,
	type LoadedDocument
} from '#core/project/index.ts';
import type { Snapshot } from '#server/engine/protocol.ts';
import type { FileChange, FileStore, StoredFile } from '#server/store/index.ts';
import { folderPath, openMirror, type Mirror } from '#server/folder/mirror.ts';
import { mkdir } from 'node:fs/promises';
import { basename } from 'node:path';
import { setImmediate } from 'node:timers/promises';
import { createFolders, type Changed } from './folders.ts';
import { assemble, assembled, HELD_MS, type OpenProject } from './assemble.ts';

export type { OpenProject };

/** What was written: a file, its revision now, and the one before, 0 where there was none. */
export interface Written {
	path: string;
	revision: number;
	was: number;
}

export interface Projects {
	names(): Promise<string[]>;
	/** @throws HeronError request.notFound */
	open(name: string): Promise<OpenProject>;
	/** Gives a document another value; its comments and untouched lines stay. */
	writeValue(name: string, path: string, value: Json, base: number): Promise<StoredFile>;
	writeBytes(name: string, path: string, bytes: Uint8Array, base: number): Promise<StoredFile>;
	remove(name: string, path: string, base: number): Promise<void>;
	/** Writes and removes files, all of them or none; gives those that are there then. @throws HeronError store.conflict, folder.failed */
	change(name: string, changes: FileChange[]): Promise<StoredFile[]>;
	/** Brings files back to revisions that they had, 0 for not being there: all of them or none. @throws HeronError store.conflict, request.notFound */
	goBack(name: string, steps: Written[]): Promise<void>;
	replace(name: string, files: { path: string; bytes: Uint8Array }[]): Promise<void>;
	/** Puts a new project under a free name that is like the one that is wanted; gives the name. */
	begin(wanted: string, files: { path: string; bytes: Uint8Array }[]): Promise<string>;
	/** Takes a project out of sight, with all its files, runs and secrets, for a week. @throws HeronError request.notFound */
	removeAll(name: string): Promise<void>;
	/** Brings a removed project back. @throws HeronError request.notFound */
	restore(name: string): Promise<void>;
	/** Projects that are removed, and since when, in milliseconds since 1970. */
	removed(): Promise<{ name: string; removedAt: number }[]>;
	/** Opens a folder on this machine as a project; gives the name by which it is known. @throws HeronError folder.failed, project.none */
	openFolder(dir: string): Promise<string>;
	/** From now on the project is a folder: its files are written there. @throws HeronError folder.failed, folder.holds */
	link(name: string, dir: string): Promise<void>;
	/** The files stay where they are, and what is here is a copy of its own. */
	unlink(name: string): Promise<void>;
	/** The folder that a project is, and why it cannot be used; both empty for none. */
	folder(name: string): Promise<{ dir: string; trouble: string }>;
	/** Hears which files of a project have changed in its folder. Gives a function that ends it. */
	listen(name: string, hear: (paths: string[]) => void): () => void;
	/** Hears that files of a project are others now, by whatever way. Gives a function that ends it. */
	watch(name: string, hear: () => void): () => void;
	close(): Promise<void>;
	snapshot(project: OpenProject): Snapshot;
	/** Files put together as a project that nobody keeps: as it was at another time. */
	assembled(name: string, files: StoredFile[]): Promise<OpenProject>;
}

/** Changes files of a project, all or none, and says what was written: what takes it back. */
export async function writtenBy(projects: Projects, name: string, changes: FileChange[]): Promise<Written[]> {
	const now = await projects.change(name, changes);
	return changes.map(({ path, base }) => ({
		path,
		revision: now.find((one) => one.path === path)?.revision ?? 0,
		was: base
	}));
}

const NAME = /^[a-z0-9][a-z0-9-]*$/;
/** Names that stand for pages of the application. */
const RESERVED = ['api', 'oauth', 'projects'];

function assertPath(path: string): void {
	const tidy = path.split('/').every((part) => part && part !== '.' && part !== '..' && !/[\\\0]/.test(part));
	if (!tidy || !isProjectFile(path)) {
		throw new HeronError('file.kind', {
			folders: 'connections, environments, collections, suites, stand-ins, files, datasets, schemas'
		});
	}
}

/** Projects are read once and kept; what is written goes to the store first. */
export function createProjects(store: FileStore): Projects {
	const open = new Map<string, Promise<OpenProject>>();
	const ears = new Map<string, Set<(paths: string[]) => void>>();
	const watchers = new Map<string, Set<() => void>>();
	const changed = (name: string): void => {
		for (const hear of watchers.get(name) ?? []) hear();
	};
	const folders = createFolders(store, (name, paths) => void hear(name, paths));
	/** Projects whose folder could not even be opened, and why. */
	const away = new Map<string, string>();
	/** What is written, and what is read from a folder, goes one after the other. */
	const turns = new Map<string, Promise<unknown>>();
	const inTurn = <T>(name: string, work: () => Promise<T>): Promise<T> => {
		const next = (turns.get(name) ?? Promise.resolve()).then(work, work);
		const settled = next.catch(() => {});
		turns.set(name, settled);
		void settled.then(() => turns.get(name) === settled && turns.delete(name));
		return next;
	};

	const load = async (name: string): Promise<OpenProject> => {
		let stored = (await store.projects()).includes(name) ? await store.list(name) : [];
		const mirror = await folders.of(name).catch((error: unknown) => {
			// a folder that is away: the copy is shown, and says so
			away.set(name, textOf(error));
			return undefined;
		});
		if (mirror) {
			away.delete(name);
			const known = new Map(stored.map((file) => [file.path, file]));
			await keep(name, await folders.changes(mirror, known), known);
			stored = [...known.values()].sort((a, b) => (a.path < b.path ? -1 : 1));
		}
		if (stored.length === 0) throw new HeronError('request.notFound', { what: `the project "${name}"` });
		return assembled(name, stored);
	};
	const get = (name: string): Promise<OpenProject> => {
		let project = open.get(name);
		if (!project) {
			project = load(name);
			open.set(name, project);
			project.catch(() => open.delete(name));
		}
		return project;
	};
	/** Writes and removes files, all of them or none. @param documents those that are read already */
	const put = async (
		name: string,
		changes: FileChange[],
		documents: ReadonlyMap<string, LoadedDocument> = new Map()
	): Promise<StoredFile[]> => {
		const project = await get(name);
		for (const { path, base } of changes) {
			const mirror = await inUse(name, path);
			const current = project.files.get(path)?.revision ?? 0;
			if (mirror && current !== base) throw new HeronError('store.conflict', { current, base });
		}
		const before = changes.map(({ path }) => project.files.get(path)?.bytes);
		const mirror = await folders.of(name);
		const onDisk = async (list: { path: string; bytes?: Uint8Array | undefined }[]) => {
			for (const { path, bytes } of list) await (bytes ? mirror?.write(path, bytes) : mirror?.remove(path));
		};
		let revisions: number[];
		try {
			await onDisk(changes);
			revisions = await store.change(name, changes);
		} catch (error) {
			// the folder is as it was, where that can be had
			if (mirror && changes.length > 1)
				await onDisk(changes.map(({ path }, index) => ({ path, bytes: before[index] }))).catch(() => {});
			throw error;
		}
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
		changed(name);
		return written;
	};

	/** Takes changes of a folder into the store. */
	const keep = async (name: string, changes: Changed[], known: Map<string, StoredFile>): Promise<void> => {
		// a path may have been looked at twice: by its folder, and because it was known
		const byPath = new Map(changes.map((one) => [one.path, one]));
		const news = [...byPath.values()].filter(({ path, bytes }) => bytes !== undefined || known.has(path));
		if (news.length === 0) return;
		// what changed together, by a switch of branches for instance, is one change
		const revisions = await store.change(
			name,
			news.map(({ path, bytes }) => ({ path, bytes, base: known.get(path)?.revision ?? 0 }))
		);
		news.forEach(({ path, bytes }, index) => {
			if (bytes) known.set(path, { path, bytes, revision: revisions[index]! });
			else known.delete(path);
		});
	};
	/** Takes what has changed in a folder into a project that is open, and tells whoever listens. */
	const take = async (name: string, project: OpenProject, mirror: Mirror, paths: string[]): Promise<void> => {
		const changes = await folders.changed(mirror, paths, project.files);
		if (changes.length === 0) return;
		await keep(name, changes, project.files);
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
		for (const ear of ears.get(name) ?? []) ear(changes.map(({ path }) => path));
		changed(name);
	};
	async function hear(name: string, paths: string[]): Promise<void> {
		await inTurn(name, async () => {
			const mirror = await folders.of(name);
			if (mirror && open.has(name)) await take(name, await get(name), mirror, paths);
		}).catch((error: unknown) => console.error(`the folder of ${name} could not be read: ${textOf(error)}`));
	}
	/** The folder of a project, with what has changed at a path taken first: what is written meets it as a conflict. */
	async function inUse(name: string, path: string): Promise<Mirror | undefined> {
		const mirror = await folders.of(name);
		if (!mirror) return undefined;
		const project = await get(name);
		// back again: all that was changed meanwhile
		const all = away.delete(name) && [...(await mirror.list()).keys(), ...project.files.keys()];
		const paths = all ? [...new Set(all)] : [path];
		await take(name, project, mirror, paths);
		const trouble = folders.trouble(name);
		if (trouble) throw new HeronError('folder.failed', { path: mirror.dir, detail: trouble });
		return mirror;
	}

	const replace: Projects['replace'] = async (name, files) => {
		const linked = await store.folderOf(name);
		if (linked) throw new HeronError('project.linked', { name, folder: linked });
		if (!NAME.test(name) || RESERVED.includes(name))
			throw new HeronError(RESERVED.includes(name) ? 'project.reserved' : 'project.name', { name });
		if ((await store.removed()).some((one) => one.name === name)) throw new HeronError('project.removed', { name });
		for (const { path } of files) assertPath(path);
		if (!files.some((file) => file.path === 'heron.yaml'))
			throw new HeronError('project.none', { dir: 'what was sent' });
		// values of this machine stay, and none come from elsewhere
		const mine = (await store.list(name)).filter((file) => file.path === LOCAL_FILE);
		await store.replaceProject(name, [...files.filter((file) => file.path !== LOCAL_FILE), ...mine]);
		open.delete(name);
		changed(name);
	};

	/** Makes a project under a name that is free; one after the other, so that none is given twice. */
	const underFreeName = (wanted: string, make: (name: string) => Promise<string>): Promise<string> =>
		// no project is called so
		inTurn('', async () => {
			const taken = [...(await store.projects()), ...(await store.removed()).map((one) => one.name), ...RESERVED];
			return make(freeName(wanted, taken));
		});

	return {
		names: () => store.projects(),
		open: get,
		async writeValue(name, path, value, base) {
			assertPath(path);
			const found = kindOfFile(path);
			if (!found) throw new HeronError('file.document', { path });
			const project = await get(name);
			const before = project.files.get(path);
			if (project.documents.get(path)?.problems.some(isUnreadable)) {
				// what stands there must not be lost to an edit that never saw it
				throw new HeronError('file.unread', { file: path });
			}
			if (before && before.revision === base && same(project.documents.get(path)?.value, value)) return before;
			const text = editYaml(before?.bytes.toString('utf8') ?? '', value);
			const parsed = { value, problems: [] };
			const document = {
				path,
				...found,
				value,
				problems: documentProblems(found.kind, path, parsed),
				warnings: documentWarnings(found.kind, path, parsed),
				placeOf: () => ({ line: 1, column: 1 })
			};
			const change = { path, bytes: Buffer.from(text), base };
			return inTurn(name, async () => (await put(name, [change], new Map([[path, document]])))[0]!);
		},
		async writeBytes(name, path, bytes, base) {
			assertPath(path);
			return inTurn(name, async () => (await put(name, [{ path, bytes, base }]))[0]!);
		},
		async change(name, changes) {
			for (const { path } of changes) assertPath(path);
			return inTurn(name, () => put(name, changes));
		},
		async remove(name, path, base) {
			await inTurn(name, () => put(name, [{ path, base }]));
		},
		goBack: (name, steps) =>
			inTurn(name, async () => {
				const changes: FileChange[] = [];
				for (const { path, revision, was } of steps) {
					assertPath(path);
					const bytes = was === 0 ? undefined : await store.revision(name, path, was);
					if (was !== 0 && !bytes) throw new HeronError('request.notFound', { what: `revision ${was} of ${path}` });
					changes.push({ path, bytes, base: revision });
				}
				await put(name, changes);
			}),
		replace,
		begin: (wanted, files) =>
			underFreeName(wanted, async (name) => {
				await replace(name, files);
				return name;
			}),
		async removeAll(name) {
			if (!(await store.projects()).includes(name))
				throw new HeronError('request.notFound', { what: `the project "${name}"` });
			await store.removeProject(name);
			await folders.forget(name);
			open.delete(name);
		},
		async restore(name) {
			if (!(await store.removed()).some((one) => one.name === name))
				throw new HeronError('request.notFound', { what: `a removed project "${name}"` });
			await store.restoreProject(name);
		},
		removed: () => store.removed(),
		async openFolder(given) {
			// opened for a moment, to see that it can be
			const mirror = await openMirror(given, () => {});
			try {
				const linked = (await store.folders()).find(({ folder }) => folder === mirror.dir);
				if (linked) return linked.name;
				const files: { path: string; bytes: Buffer }[] = [];
				for (const path of (await mirror.list()).keys()) {
					const bytes = await mirror.read(path);
					if (bytes) files.push({ path, bytes });
				}
				if (!files.some(({ path }) => path === 'heron.yaml')) throw new HeronError('project.none', { dir: mirror.dir });
				return await underFreeName(projectName(basename(mirror.dir)), async (name) => {
					await store.replaceProject(name, files);
					await store.setFolder(name, mirror.dir);
					return name;
				});
			} finally {
				await mirror.close();
			}
		},
		async link(name, given) {
			const { files } = await get(name);
			await mkdir(folderPath(given), { recursive: true }).catch((error: unknown) => {
				throw new HeronError('folder.failed', { path: given, detail: textOf(error) }, { cause: error });
			});
			const mirror = await openMirror(given, () => {});
			try {
				if ((await mirror.list()).size > 0) throw new HeronError('folder.holds', { folder: mirror.dir });
				for (const { path, bytes } of files.values()) await mirror.write(path, bytes);
				await store.setFolder(name, mirror.dir);
			} finally {
				await mirror.close();
			}
			await folders.of(name);
		},
		async unlink(name) {
			await store.setFolder(name, '');
			await folders.forget(name);
			away.delete(name);
		},
		folder: async (name) => ({
			dir: await store.folderOf(name),
			trouble: away.get(name) ?? folders.trouble(name)
		}),
		listen(name, ear) {
			const own = ears.get(name) ?? new Set();
			ears.set(name, own.add(ear));
			return () => {
				own.delete(ear);
				if (own.size === 0) ears.delete(name);
			};
		},
		watch(name, hear) {
			const own = watchers.get(name) ?? new Set();
			watchers.set(name, own.add(hear));
			return () => void own.delete(hear);
		},
		close: () => folders.close(),
		assembled,
		snapshot: ({ name, documents, files }) => ({
			project: name,
			documents: [...documents.values()].map(({ path, value }) => ({ path, value })),
			files: [...files.values()].filter((file) => !documents.has(file.path)).map(({ path, bytes }) => ({ path, bytes }))
		})
	};
}
