import { HeronError } from '#core/errors.ts';
import { Op, type Sequelize, type Transaction } from 'sequelize';
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

export function createFileStore(sequelize: Sequelize): FileStore {
	const at = (project: string, path: string) => ({ where: { project, path } });
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
				const old = new Map(
					(await FileRow.findAll({ where: { project }, transaction, raw: true })).map((row) => [row.path, row])
				);
				const wanted = new Set(files.map((file) => file.path));
				const change = await nextChange(project);
				for (const path of old.keys())
					if (!wanted.has(path)) {
						await FileRow.destroy({ ...at(project, path), transaction });
						await noteGone(project, path, change, transaction);
					}
				for (const { path, bytes } of files) {
					const before = old.get(path);
					const buffer = Buffer.from(bytes);
					if (before?.bytes.equals(buffer)) continue;
					const revision = (before?.revision ?? (await lastRevision(project, path))) + 1;
					await FileRow.upsert({ project, path, bytes: buffer, revision }, { transaction });
					await RevisionRow.upsert({ project, path, bytes: buffer, revision, change }, { transaction });
				}
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
		change,
		revision: async (project, path, revision) =>
			(await RevisionRow.findOne({ where: { project, path, revision, gone: 0 }, raw: true }))?.bytes,
		write: async (project, path, bytes, base) => (await change(project, [{ path, bytes, base }]))[0]!,
		remove: async (project, path, base) => void (await change(project, [{ path, base }]))
	};

	function change(project: string, changes: FileChange[]): Promise<number[]> {
		return sequelize.transaction(async (transaction) => {
			const revisions: number[] = [];
			const number = await nextChange(project);
			for (const { path, bytes, base } of changes) {
				const before = await FileRow.findOne({ ...at(project, path), transaction, raw: true });
				const current = before?.revision ?? 0;
				// what is gone already need not be removed
				if (bytes ? current !== base : before && current !== base)
					throw new HeronError('store.conflict', { current, base });
				if (!bytes) {
					await FileRow.destroy({ ...at(project, path), transaction });
					if (before) await noteGone(project, path, number, transaction);
					revisions.push(0);
					continue;
				}
				const buffer = Buffer.from(bytes);
				// what is as it was is no change
				if (before?.bytes.equals(buffer)) {
					revisions.push(current);
					continue;
				}
				const revision = Math.max(current, await lastRevision(project, path)) + 1;
				await FileRow.upsert({ project, path, bytes: buffer, revision }, { transaction });
				await RevisionRow.create({ project, path, bytes: buffer, revision, change: number }, { transaction });
				revisions.push(revision);
			}
			return revisions;
		});
	}

	async function noteGone(project: string, path: string, change: number, transaction: Transaction): Promise<void> {
		const revision = (await lastRevision(project, path)) + 1;
		await RevisionRow.create({ project, path, bytes: Buffer.alloc(0), revision, change, gone: 1 }, { transaction });
	}

	async function nextChange(project: string): Promise<number> {
		return ((await RevisionRow.max<number, RevisionRow>('change', { where: { project } })) || 0) + 1;
	}

	async function lastRevision(project: string, path: string): Promise<number> {
		return (await RevisionRow.max<number, RevisionRow>('revision', at(project, path))) || 0;
	}
}
