import { HeronError, type Problem } from '#core/errors.ts';
import { didYouMean } from '#core/messages.ts';
import { documentKinds, isTidy, PLAIN_FOLDERS, PROJECT_FILE } from '#core/documents/kinds.ts';
import { isProjectFile, loadProject, type LoadedProject } from '#core/project/index.ts';
import { folderSource, type DataSource } from './datasets/index.ts';
import { existsSync, readdirSync, readFileSync, realpathSync, statSync } from 'node:fs';
import { dirname, join, relative, resolve, sep } from 'node:path';

export interface ProjectFolder extends LoadedProject {
	dir: string;
	/** Paths of all its files, with slashes, sorted. */
	paths: string[];
	readFile(path: string): Uint8Array | undefined;
	/** Its files, read piece by piece where they are large. */
	data: DataSource;
}

const LIMIT = 20_000;
const FOLDERS = [...documentKinds.map((kind) => kind.folder).filter(Boolean), ...PLAIN_FOLDERS];

/** Paths of the files in a project's own folders; whatever else lies beside them is not looked into. */
function listFiles(dir: string): string[] {
	const out: string[] = [];
	const walk = (at: string) => {
		for (const entry of readdirSync(at, { withFileTypes: true })) {
			if (entry.name.startsWith('.') || entry.name === 'node_modules') continue;
			const full = join(at, entry.name);
			if (entry.isDirectory()) walk(full);
			else if (entry.isFile()) out.push(relative(dir, full).split(sep).join('/'));
			if (out.length > LIMIT) throw new HeronError('project.large', { dir, limit: LIMIT });
		}
	};
	for (const folder of FOLDERS) if (existsSync(join(dir, folder))) walk(join(dir, folder));
	const single = documentKinds.flatMap(({ file }) => (file && existsSync(join(dir, file)) ? [file] : []));
	return [...single, ...out.sort()];
}

/** Folders that are one slip away from a project's own. */
function misspelt(dir: string): Problem[] {
	const folders = readdirSync(dir, { withFileTypes: true }).filter(
		(entry) => entry.isDirectory() && !FOLDERS.includes(entry.name)
	);
	return folders.flatMap(({ name }) => {
		const guess = didYouMean(name, FOLDERS);
		if (!guess.startsWith(': did')) return [];
		return [{ code: 'file.kind' as const, message: `the folder is not read${guess}`, file: `${name}/`, path: [] }];
	});
}

/** Where a file lies that is below a folder, links resolved; undefined when it is not there, or elsewhere. */
function folderLocator(dir: string): (path: string) => string | undefined {
	const root = realpathSync(dir);
	return (path) => {
		const full = resolve(root, path);
		if (!existsSync(full) || !statSync(full).isFile()) return undefined;
		const real = realpathSync(full);
		return real.startsWith(root + sep) ? real : undefined;
	};
}

/** Reads files below a folder and nowhere else. */
export function folderReader(dir: string): (path: string) => Uint8Array | undefined {
	const locate = folderLocator(dir);
	return (path) => {
		const full = locate(path);
		return full === undefined ? undefined : readFileSync(full);
	};
}

/** Folders that are named where some of them may be meant. */
const MOST_NAMED = 3;
/** What may be meant where there is no project: a file by a name like it, or a folder below or above. */
function nearby(dir: string): string {
	const names = existsSync(dir) && statSync(dir).isDirectory() ? readdirSync(dir) : [];
	const like = names.find((name) => /^heron\.ya?ml$/i.test(name));
	if (like) return `; ${like} is to be called so`;
	const below = names.map((name) => join(dir, name)).filter((path) => existsSync(join(path, PROJECT_FILE)));
	if (below.length > 0) return `; there is one in ${below.slice(0, MOST_NAMED).join(', in ')}`;
	for (let at = resolve(dir); at !== dirname(at); at = dirname(at))
		if (existsSync(join(dirname(at), PROJECT_FILE))) return `; there is one in ${dirname(at)}`;
	return '';
}

/**
 * Reads a project's folder; what is wrong in its files is in the result.
 * @throws HeronError project.none when it is no project
 */
export function readFolder(dir: string): ProjectFolder {
	if (!existsSync(join(dir, PROJECT_FILE))) throw new HeronError('project.none', { dir, near: nearby(dir) });
	const below = folderReader(dir);
	// what lies beside a project's own files is nobody's business: a repository's settings, secrets
	const readFile = (path: string) => (isTidy(path) && isProjectFile(path) ? below(path) : undefined);
	const paths = listFiles(dir).filter(isProjectFile);
	const sources = listFiles(dir)
		.filter((path) => /\.ya?ml$/.test(path))
		.map((path) => ({ path, text: Buffer.from(readFile(path) ?? []).toString('utf8') }));
	const loaded = loadProject(sources, new Set(paths), readFile);
	loaded.workspace.warnings.push(...misspelt(dir));
	return { dir, paths, readFile, data: folderSource(paths, folderLocator(dir), readFile), ...loaded };
}
