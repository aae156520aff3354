import { HeronError, textOf } from '#core/errors.ts';
import { projectName } from '#core/begin/index.ts';
import { editYaml } from '#core/model/edit.ts';
import { freeName } from '#core/model/path.ts';
import { LOCAL_FILE } from '#core/documents/local.ts';
import { same, type Json } from '#core/model/json.ts';
import { kindOfFile } from '#core/documents/kinds.ts';
import { isUnreadable } from '#core/model/yaml.ts';
import { documentProblems, documentWarnings, isProjectFile } from '#core/project/index.ts';
import type { Snapshot } from '#server/engine/protocol.ts';
import type { FileChange, FileStore, StoredFile } from '#server/store/index.ts';
import { folderPath, Mirror } from '#server/folder/mirror.ts';
import { mkdir } from 'node:fs/promises';
import { basename } from 'node:path';
import { assembled, type OpenProject } from './assemble.ts';
import { ProjectFiles } from './project-files.ts';

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
export const createProjects = (store: FileStore): Projects => new StoredProjects(store);

class StoredProjects implements Projects {
	readonly #store: FileStore;
	readonly #files: ProjectFiles;

	constructor(store: FileStore) {
		this.#store = store;
		this.#files = new ProjectFiles(store);
	}

	names(): Promise<string[]> {
		return this.#store.projects();
	}
	open(name: string): Promise<OpenProject> {
		return this.#files.get(name);
	}
	async writeValue(name: string, path: string, value: Json, base: number): Promise<StoredFile> {
		assertPath(path);
		const found = kindOfFile(path);
		if (!found) throw new HeronError('file.document', { path });
		const project = await this.open(name);
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
		const documents = new Map([[path, document]]);
		return this.#files.inTurn(name, async () => (await this.#files.put(name, [change], documents))[0]!);
	}
	async writeBytes(name: string, path: string, bytes: Uint8Array, base: number): Promise<StoredFile> {
		return (await this.change(name, [{ path, bytes, base }]))[0]!;
	}
	async remove(name: string, path: string, base: number): Promise<void> {
		await this.#files.inTurn(name, () => this.#files.put(name, [{ path, base }]));
	}
	async change(name: string, changes: FileChange[]): Promise<StoredFile[]> {
		for (const { path } of changes) assertPath(path);
		return this.#files.inTurn(name, () => this.#files.put(name, changes));
	}
	goBack(name: string, steps: Written[]): Promise<void> {
		return this.#files.inTurn(name, async () => {
			const changes: FileChange[] = [];
			for (const { path, revision, was } of steps) {
				assertPath(path);
				const bytes = was === 0 ? undefined : await this.#store.revision(name, path, was);
				if (was !== 0 && !bytes) throw new HeronError('request.notFound', { what: `revision ${was} of ${path}` });
				changes.push({ path, bytes, base: revision });
			}
			await this.#files.put(name, changes);
		});
	}
	async replace(name: string, files: { path: string; bytes: Uint8Array }[]): Promise<void> {
		const linked = await this.#store.folderOf(name);
		if (linked) throw new HeronError('project.linked', { name, folder: linked });
		if (!NAME.test(name) || RESERVED.includes(name))
			throw new HeronError(RESERVED.includes(name) ? 'project.reserved' : 'project.name', { name });
		if ((await this.removed()).some((one) => one.name === name)) throw new HeronError('project.removed', { name });
		for (const { path } of files) assertPath(path);
		if (!files.some((file) => file.path === 'heron.yaml'))
			throw new HeronError('project.none', { dir: 'what was sent', near: '' });
		// values of this machine stay, and none come from elsewhere
		const mine = (await this.#store.list(name)).filter((file) => file.path === LOCAL_FILE);
		await this.#store.replaceProject(name, [...files.filter((file) => file.path !== LOCAL_FILE), ...mine]);
		this.#files.replaced(name);
	}
	begin(wanted: string, files: { path: string; bytes: Uint8Array }[]): Promise<string> {
		return this.#underFreeName(wanted, (name) => this.replace(name, files));
	}

	/** Makes a project under a name that is free; one after the other, so that none is given twice. */
	#underFreeName(wanted: string, make: (name: string) => Promise<void>): Promise<string> {
		// no project is called so
		return this.#files.inTurn('', async () => {
			const removed = (await this.removed()).map((one) => one.name);
			const name = freeName(wanted, [...(await this.names()), ...removed, ...RESERVED]);
			await make(name);
			return name;
		});
	}

	async removeAll(name: string): Promise<void> {
		if (!(await this.names()).includes(name))
			throw new HeronError('request.notFound', { what: `the project "${name}"` });
		await this.#store.removeProject(name);
		await this.#files.forget(name);
	}
	async restore(name: string): Promise<void> {
		if (!(await this.removed()).some((one) => one.name === name))
			throw new HeronError('request.notFound', { what: `a removed project "${name}"` });
		await this.#store.restoreProject(name);
	}
	removed(): Promise<{ name: string; removedAt: number }[]> {
		return this.#store.removed();
	}

	async openFolder(given: string): Promise<string> {
		// opened for a moment, to see that it can be
		const mirror = await Mirror.open(given, () => {});
		try {
			const linked = (await this.#store.folders()).find(({ folder }) => folder === mirror.dir);
			if (linked) return linked.name;
			const files: { path: string; bytes: Buffer }[] = [];
			for (const path of (await mirror.list()).keys()) {
				const bytes = await mirror.read(path);
				if (bytes) files.push({ path, bytes });
			}
			if (!files.some(({ path }) => path === 'heron.yaml'))
				throw new HeronError('project.none', { dir: mirror.dir, near: '' });
			return await this.#underFreeName(projectName(basename(mirror.dir)), async (name) => {
				await this.#store.replaceProject(name, files);
				await this.#store.setFolder(name, mirror.dir);
			});
		} finally {
			await mirror.close();
		}
	}
	async link(name: string, given: string): Promise<void> {
		const { files } = await this.open(name);
		await mkdir(folderPath(given), { recursive: true }).catch((error: unknown) => {
			throw new HeronError('folder.failed', { path: given, detail: textOf(error) }, { cause: error });
		});
		const mirror = await Mirror.open(given, () => {});
		try {
			if ((await mirror.list()).size > 0) throw new HeronError('folder.holds', { folder: mirror.dir });
			for (const { path, bytes } of files.values()) await mirror.write(path, bytes);
			await this.#store.setFolder(name, mirror.dir);
		} finally {
			await mirror.close();
		}
		await this.#files.follow(name);
	}
	async unlink(name: string): Promise<void> {
		await this.#store.setFolder(name, '');
		await this.#files.leave(name);
	}
	async folder(name: string): Promise<{ dir: string; trouble: string }> {
		return { dir: await this.#store.folderOf(name), trouble: this.#files.trouble(name) };
	}

	listen(name: string, hear: (paths: string[]) => void): () => void {
		return this.#files.listen(name, hear);
	}
	watch(name: string, hear: () => void): () => void {
		return this.#files.watch(name, hear);
	}
	close(): Promise<void> {
		return this.#files.close();
	}
	assembled(name: string, files: StoredFile[]): Promise<OpenProject> {
		return assembled(name, files);
	}
	snapshot({ name, documents, files }: OpenProject): Snapshot {
		return {
			project: name,
			documents: [...documents.values()].map(({ path, value }) => ({ path, value })),
			files: [...files.values()].filter((file) => !documents.has(file.path)).map(({ path, bytes }) => ({ path, bytes }))
		};
	}
}
