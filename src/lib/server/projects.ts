import { HeronError, textOf } from '#core/errors.ts';
import { editYaml } from '#core/model/edit.ts';
import { freeName } from '#core/model/path.ts';
import { LOCAL_FILE } from '#core/model/local.ts';
import { same, type Json } from '#core/model/json.ts';
import { kindOfFile } from '#core/model/kinds.ts';
import {
	createWorkspace,
	documentProblems,
	documentWarnings,
	isProjectFile,
	loadDocument,
	type LoadedDocument,
	type Workspace
} from '#core/project/index.ts';
import type { Snapshot } from '#server/engine/protocol.ts';
import type { FileStore, StoredFile } from '#server/store/index.ts';
import { setImmediate } from 'node:timers/promises';

/** A project as the server holds it: the stored files, and what they say. */
export interface OpenProject {
	name: string;
	files: Map<string, StoredFile>;
	documents: Map<string, LoadedDocument>;
	workspace: Workspace;
}

export interface Projects {
	names(): Promise<string[]>;
	/** @throws HeronError request.notFound */
	open(name: string): Promise<OpenProject>;
	/** Gives a document another value; its comments and untouched lines stay. */
	writeValue(name: string, path: string, value: Json, base: number): Promise<StoredFile>;
	writeBytes(name: string, path: string, bytes: Uint8Array, base: number): Promise<StoredFile>;
	remove(name: string, path: string, base: number): Promise<void>;
	replace(name: string, files: { path: string; bytes: Uint8Array }[]): Promise<void>;
	/** Puts a new project under a free name that is like the one that is wanted; gives the name. */
	begin(wanted: string, files: { path: string; bytes: Uint8Array }[]): Promise<string>;
	/** Takes a project out of sight, with all its files, runs and secrets, for a week. @throws HeronError request.notFound */
	removeAll(name: string): Promise<void>;
	/** Brings a removed project back. @throws HeronError request.notFound */
	restore(name: string): Promise<void>;
	/** Projects that are removed, and since when, in milliseconds since 1970. */
	removed(): Promise<{ name: string; removedAt: number }[]>;
	snapshot(project: OpenProject): Snapshot;
}

/** The longest that reading a project keeps others waiting, in milliseconds; one file goes beyond. */
const HELD_MS = 25;

export const NAME = /^[a-z0-9][a-z0-9-]*$/;
/** Names that stand for pages of the application. */
const RESERVED = ['api', 'oauth', 'projects'];

function demandPath(path: string): void {
	const tidy = path.split('/').every((part) => part && part !== '.' && part !== '..' && !/[\\\0]/.test(part));
	if (!tidy || !isProjectFile(path)) {
		throw new HeronError('file.kind', {
			folders: 'connections, environments, collections, suites, files, datasets, schemas'
		});
	}
}

/** Projects are read once and kept; what is written goes to the store first. */
export function createProjects(store: FileStore): Projects {
	const open = new Map<string, Promise<OpenProject>>();

	const together = (project: OpenProject, documents: LoadedDocument[]): Workspace =>
		createWorkspace(documents, new Set(project.files.keys()), (path) => project.files.get(path)?.bytes);
	/** A file that the others cannot be put together with: it stays as it is, and says so. */
	const broken = (document: LoadedDocument, error: unknown): LoadedDocument => ({
		...document,
		value: null,
		warnings: [],
		problems: [
			{
				code: 'model.wrong',
				message: `this file cannot be used: ${textOf(error)}`,
				file: document.path,
				path: [],
				line: 1,
				column: 1
			}
		]
	});
	/** @param newest what was written last, and so is what is wrong when they do not go together any more */
	const assemble = (project: OpenProject, newest?: string): OpenProject => {
		try {
			project.workspace = together(project, [...project.documents.values()]);
			return project;
		} catch (error) {
			const suspects = newest && project.documents.has(newest) ? [newest] : [...project.documents.keys()];
			for (const path of suspects) {
				const document = project.documents.get(path)!;
				try {
					if (!newest) together(project, [document]);
					else throw error;
				} catch (cause) {
					project.documents.set(path, broken(document, cause));
				}
			}
			try {
				project.workspace = together(project, [...project.documents.values()]);
			} catch (cause) {
				const problem = {
					...{ code: 'model.wrong' as const, file: 'heron.yaml', path: [], line: 1, column: 1 },
					message: `the project cannot be put together: ${textOf(cause)}`
				};
				project.workspace = together(project, []);
				project.workspace.problems.push(problem);
			}
			return project;
		}
	};
	const load = async (name: string): Promise<OpenProject> => {
		const stored = (await store.projects()).includes(name) ? await store.list(name) : [];
		if (stored.length === 0) throw new HeronError('request.notFound', { what: `the project "${name}"` });
		const documents = new Map<string, LoadedDocument>();
		let began = performance.now();
		for (const { path, bytes } of stored) {
			const document = loadDocument(path, bytes.toString('utf8'));
			if (document) documents.set(path, document);
			if (performance.now() - began < HELD_MS) continue;
			// others are served between two files of a large project
			await setImmediate();
			began = performance.now();
		}
		return assemble({
			name,
			files: new Map(stored.map((file) => [file.path, file])),
			documents,
			workspace: undefined as never
		});
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
	const put = async (
		name: string,
		path: string,
		bytes: Buffer,
		base: number,
		document?: LoadedDocument
	): Promise<StoredFile> => {
		const project = await get(name);
		const revision = await store.write(name, path, bytes, base);
		const file = { path, bytes, revision };
		project.files.set(path, file);
		const loaded = document ?? loadDocument(path, bytes.toString('utf8'));
		if (loaded) project.documents.set(path, loaded);
		assemble(project, path);
		return file;
	};

	const replace: Projects['replace'] = async (name, files) => {
		if (!NAME.test(name) || RESERVED.includes(name))
			throw new HeronError('request.wrong', {
				detail: RESERVED.includes(name)
					? `"${name}" cannot be a project's name: the application has pages of that name`
					: `"${name}" cannot be a project's name: small letters, digits and - can`
			});
		if ((await store.removed()).some((one) => one.name === name))
			throw new HeronError('request.wrong', {
				detail: `a project "${name}" was removed less than a week ago: bring it back, or take another name`
			});
		for (const { path } of files) demandPath(path);
		if (!files.some((file) => file.path === 'heron.yaml'))
			throw new HeronError('project.none', { dir: 'what was sent' });
		// values of this machine stay, and none come from elsewhere
		const mine = (await store.list(name)).filter((file) => file.path === LOCAL_FILE);
		await store.replaceProject(name, [...files.filter((file) => file.path !== LOCAL_FILE), ...mine]);
		open.delete(name);
	};

	return {
		names: () => store.projects(),
		open: get,
		async writeValue(name, path, value, base) {
			demandPath(path);
			const found = kindOfFile(path);
			if (!found) throw new HeronError('request.wrong', { detail: `${path} is not a document` });
			const project = await get(name);
			const before = project.files.get(path);
			if (project.documents.get(path)?.problems.some((problem) => problem.code === 'yaml.syntax')) {
				// what stands there must not be lost to an edit that never saw it
				throw new HeronError('request.wrong', { detail: `${path} is not YAML at present: mend its text first` });
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
			return put(name, path, Buffer.from(text), base, document);
		},
		async writeBytes(name, path, bytes, base) {
			demandPath(path);
			return put(name, path, Buffer.from(bytes), base);
		},
		async remove(name, path, base) {
			const project = await get(name);
			await store.remove(name, path, base);
			project.files.delete(path);
			project.documents.delete(path);
			assemble(project);
		},
		replace,
		async begin(wanted, files) {
			const taken = [...(await store.projects()), ...(await store.removed()).map((one) => one.name), ...RESERVED];
			const name = freeName(wanted, taken);
			await replace(name, files);
			return name;
		},
		async removeAll(name) {
			if (!(await store.projects()).includes(name))
				throw new HeronError('request.notFound', { what: `the project "${name}"` });
			await store.removeProject(name);
			open.delete(name);
		},
		async restore(name) {
			if (!(await store.removed()).some((one) => one.name === name))
				throw new HeronError('request.notFound', { what: `a removed project "${name}"` });
			await store.restoreProject(name);
		},
		removed: () => store.removed(),
		snapshot: ({ name, documents, files }) => ({
			project: name,
			documents: [...documents.values()].map(({ path, value }) => ({ path, value })),
			files: [...files.values()].filter((file) => !documents.has(file.path)).map(({ path, bytes }) => ({ path, bytes }))
		})
	};
}
