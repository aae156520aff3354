import { HeronError } from '#core/errors.ts';
import { col, fn, Op, type Sequelize, type Transaction } from 'sequelize';
import { FileRow, ProjectRow, RevisionRow } from './tables/index.ts';

export interface StoredFile {
	path: string;
	bytes: Buffer;
	revision: number;
}

export interface FileStore {
	projects(): Promise<string[]>;
	/** Makes a project of files, or gives it these files and no others. */
	replaceProject(project: string, files: { path: string; bytes: Uint8Array }[]): Promise<void>;
	/** A project that is removed is out of sight, and can be brought back until it is let go. */
	removeProject(project: string): Promise<void>;
	restoreProject(project: string): Promise<void>;
	/** The folder that a project is; empty for none. */
	folderOf(project: string): Promise<string>;
	setFolder(project: string, folder: string): Promise<void>;
	/** Projects that are folders. */
	folders(): Promise<{ name: string; folder: string }[]>;
	/** Projects that are removed, and since when, in milliseconds since 1970. */
	removed(): Promise<{ name: string; removedAt: number }[]>;
	list(project: string): Promise<StoredFile[]>;
	/**
	 * Writes and removes files if each still has the revision that its change was based on, 0 for a new one: all of them
	 * or none. Gives the new revisions in the same order, 0 for what is removed.
	 * @throws HeronError store.conflict
	 */
	change(project: string, changes: FileChange[]): Promise<number[]>;
	/** A file as it was at a revision; undefined where none is kept. */
	revision(project: string, path: string, revision: number): Promise<Buffer | undefined>;
	/** One of them. */
	write(project: string, path: string, bytes: Uint8Array, base: number): Promise<number>;
	remove(project: string, path: string, base: number): Promise<void>;
}

/** A file as it is to be. */
export interface FileChange {
	path: string;
	/** Left out: the file is removed. */
	bytes?: Uint8Array | undefined;
	/** The revision that the change is based on; 0 for a new file. */
	base: number;
}

/** So many rows, or so many octets, go into one statement. */
const MOST_ROWS = 500;
const MOST_OCTETS = 4_000_000;

/** Files that change together: what there was, and what becomes of it. Nothing is written before `write`. */
class Edit {
	readonly #project: string;
	readonly #transaction: Transaction;
	readonly #files = new Map<string, { bytes: Buffer; revision: number }>();
	/** The last revision that a path ever had, and the number of this change. */
	readonly #last = new Map<string, number>();
	#change = 1;
	readonly #touched = new Set<string>();
	readonly #revisions: { path: string; bytes: Buffer; revision: number; gone: 0 | 1 }[] = [];

	private constructor(project: string, transaction: Transaction) {
		this.#project = project;
		this.#transaction = transaction;
	}

	/** @param paths those that may change; left out, all of the project */
	static async of(project: string, transaction: Transaction, paths?: string[]): Promise<Edit> {
		const edit = new Edit(project, transaction);
		for (const path of paths ? piecesOf(paths, () => 0) : [undefined]) {
			const where = { project, ...(path ? { path } : {}) };
			const files = await FileRow.findAll({ where, raw: true, transaction });
			for (const { path, bytes, revision } of files) {
				edit.#files.set(path, { bytes, revision });
				edit.#last.set(path, revision);
			}
			const last = await RevisionRow.findAll({
				attributes: ['path', [fn('MAX', col('revision')), 'revision']],
				...{ where, group: ['path'], raw: true, transaction }
			});
			for (const { path, revision } of last) edit.#last.set(path, Math.max(revision, edit.#last.get(path) ?? 0));
		}
		const change = await RevisionRow.max<number, RevisionRow>('change', { where: { project }, transaction });
		edit.#change = (change || 0) + 1;
		return edit;
	}

	get paths(): string[] {
		return [...this.#files.keys()];
	}
	/** 0 for what is not there. */
	revision(path: string): number {
		return this.#files.get(path)?.revision ?? 0;
	}

	/** Gives the revision: the one there was for what is as it was. */
	put(path: string, given: Uint8Array): number {
		const before = this.#files.get(path);
		const bytes = Buffer.from(given);
		if (before?.bytes.equals(bytes)) return before.revision;
		const revision = this.#next(path, bytes, 0);
		this.#files.set(path, { bytes, revision });
		return revision;
	}

	/** What is gone already need not be removed. */
	remove(path: string): void {
		if (this.#files.delete(path)) this.#next(path, Buffer.alloc(0), 1);
	}

	#next(path: string, bytes: Buffer, gone: 0 | 1): number {
		const revision = (this.#last.get(path) ?? 0) + 1;
		this.#last.set(path, revision);
		this.#touched.add(path);
		this.#revisions.push({ path, bytes, revision, gone });
		return revision;
	}

	async write(): Promise<void> {
		const [project, transaction, change] = [this.#project, this.#transaction, this.#change];
		const touched = [...this.#touched];
		for (const path of piecesOf(touched, () => 0)) await FileRow.destroy({ where: { project, path }, transaction });
		const files = touched.flatMap((path) => {
			const file = this.#files.get(path);
			return file ? [{ project, path, ...file }] : [];
		});
		await insert(FileRow, files, transaction);
		const revisions = this.#revisions.map((revision) => ({ project, change, ...revision }));
		await insert(RevisionRow, revisions, transaction);
	}
}

interface Table<T> {
	create(row: T, options: { transaction: Transaction }): Promise<unknown>;
	bulkCreate(rows: T[], options: { transaction: Transaction }): Promise<unknown>;
}
/** A large row goes alone, as a parameter: written into the statement it would be longer than any text may be. */
async function insert<T extends { bytes: Buffer }>(
	table: Table<T>,
	rows: T[],
	transaction: Transaction
): Promise<void> {
	for (const piece of piecesOf(rows, ({ bytes }) => bytes.length))
		if (piece.length > 1) await table.bulkCreate(piece, { transaction });
		else await table.create(piece[0]!, { transaction });
}

/** A list in pieces that one statement takes. */
function piecesOf<T>(list: T[], octets: (one: T) => number): T[][] {
	const pieces: T[][] = [];
	let room = 0;
	for (const one of list) {
		room -= octets(one);
		const piece = pieces.at(-1);
		if (piece && piece.length < MOST_ROWS && room >= 0) piece.push(one);
		else {
			pieces.push([one]);
			room = MOST_OCTETS - octets(one);
		}
	}
	return pieces;
}

/** All of them or none. @throws HeronError store.conflict */
function changeFiles(sequelize: Sequelize, project: string, changes: FileChange[]): Promise<number[]> {
	return sequelize.transaction(async (transaction) => {
		const edit = await Edit.of(
			project,
			transaction,
			changes.map(({ path }) => path)
		);
		const revisions = changes.map(({ path, bytes, base }) => {
			const current = edit.revision(path);
			if (bytes ? current !== base : current > 0 && current !== base)
				throw new HeronError('store.conflict', { current, base });
			if (bytes) return edit.put(path, bytes);
			edit.remove(path);
			return 0;
		});
		await edit.write();
		return revisions;
	});
}

export function createFileStore(sequelize: Sequelize): FileStore {
	return {
		projects: async () =>
			(await ProjectRow.findAll({ where: { removedAt: null }, order: ['name'], raw: true })).map((row) => row.name),
		removed: async () =>
			(await ProjectRow.findAll({ where: { removedAt: { [Op.ne]: null } }, order: ['name'], raw: true })).map(
				({ name, removedAt }) => ({ name, removedAt: removedAt! })
			),
		async replaceProject(project, files) {
			await sequelize.transaction(async (transaction) => {
				await ProjectRow.findOrCreate({ where: { name: project }, defaults: { name: project }, transaction });
				const edit = await Edit.of(project, transaction);
				const wanted = new Set(files.map((file) => file.path));
				for (const path of edit.paths) if (!wanted.has(path)) edit.remove(path);
				for (const { path, bytes } of files) edit.put(path, bytes);
				await edit.write();
			});
		},
		removeProject: async (project) =>
			void (await ProjectRow.update({ removedAt: Date.now() }, { where: { name: project, removedAt: null } })),
		folderOf: async (project) => (await ProjectRow.findByPk(project, { raw: true }))?.folder ?? '',
		setFolder: async (project, folder) => void (await ProjectRow.update({ folder }, { where: { name: project } })),
		folders: async () =>
			(await ProjectRow.findAll({ where: { removedAt: null, folder: { [Op.ne]: '' } }, raw: true })).map(
				({ name, folder }) => ({ name, folder })
			),
		restoreProject: async (project) =>
			void (await ProjectRow.update({ removedAt: null }, { where: { name: project } })),
		list: async (project) =>
			(await FileRow.findAll({ where: { project }, order: ['path'], raw: true })).map(({ path, bytes, revision }) => ({
				path,
				bytes,
				revision
			})),
		change: (project, changes) => changeFiles(sequelize, project, changes),
		revision: async (project, path, revision) =>
			(await RevisionRow.findOne({ where: { project, path, revision, gone: 0 }, raw: true }))?.bytes,
		write: async (project, path, bytes, base) => (await changeFiles(sequelize, project, [{ path, bytes, base }]))[0]!,
		remove: async (project, path, base) => void (await changeFiles(sequelize, project, [{ path, base }]))
	};
}
