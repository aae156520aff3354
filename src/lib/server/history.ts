import { changedSteps, documentDifferences, spansOf, type ChangeSpan } from '#core/diff/index.ts';
import { HeronError } from '#core/errors.ts';
import type { Json } from '#core/model/json.ts';
import { LOCAL_FILE } from '#core/documents/local.ts';
import { QUARANTINE_FILE } from '#core/documents/quarantine.ts';
import { loadDocument } from '#core/project/index.ts';
import type { FileDifference, VersionTexts } from '$lib/wire.ts';
import { CHANGES_DAYS, type HistoryStore, type Store } from '#server/store/index.ts';
import type { OpenProject, Projects, Written } from './projects.ts';
import { writtenBy } from './projects.ts';

type Stores = Pick<Store, 'history' | 'files'>;

/** So many changes are put together to a page. */
const PAGE = 300;
/** So many files are looked into. */
const MOST_FILES = 200;
/** A text that is longer is not compared line by line, in bytes. */
const MOST_TEXT = 2_000_000;
const MARK = /^(?!\d+$)[A-Za-z0-9][\w.-]{0,63}$/;

/** What was written before a change (0: all), the newest first; values of this machine are left out. */
export async function pageOf(
	{ history }: Stores,
	project: string,
	before: number
): Promise<{ spans: ChangeSpan[]; more: boolean }> {
	const changes = await history.changes(project, { before, limit: PAGE + 1, without: LOCAL_FILE });
	const spans = spansOf(changes.slice(0, PAGE), {
		marks: await history.marks(project),
		exactSince: Date.now() - CHANGES_DAYS * 86_400_000
	});
	return { spans, more: changes.length > PAGE };
}

/** How files differ, in words where they are documents. */
export function differencesOf(
	paths: readonly string[],
	read: (path: string, side: 'before' | 'after') => Promise<Buffer | undefined>
): Promise<FileDifference[]> {
	return Promise.all(
		paths.slice(0, MOST_FILES).map(async (path): Promise<FileDifference> => {
			const [old, now] = await Promise.all([read(path, 'before'), read(path, 'after')]);
			const [before, after] = [old, now].map(
				(bytes): Json | undefined => bytes && loadDocument(path, bytes.toString('utf8'))?.value
			);
			const comparable = !!before && !!after;
			return {
				path,
				change: !old ? 'new' : now ? 'changed' : 'gone',
				differences: comparable ? documentDifferences(before, after) : [],
				steps: path.startsWith('collections/') && after && (comparable || !old) ? changedSteps(before, after) : {}
			};
		})
	);
}

/** Two texts to be shown line by line. @throws HeronError file.binary, file.long; request.notFound */
export function textsOf(path: string, before: Buffer | undefined, now: Buffer | undefined): VersionTexts {
	if (!now && !before) throw new HeronError('request.notFound', { what: path });
	const [old, fresh] = [before, now].map((bytes) => {
		if (bytes && bytes.length > MOST_TEXT) throw new HeronError('file.long', { path });
		if (bytes?.includes(0)) throw new HeronError('file.binary', { path });
		return bytes?.toString('utf8') ?? '';
	});
	return { before: old!, now: fresh! };
}

/** Which files differ between two changes, and how. */
export async function compareChanges(
	{ history, files }: Stores,
	project: string,
	[from, to]: [number, number]
): Promise<{ count: number; changed: FileDifference[] }> {
	const [before, after] = await Promise.all([history.revisionsAt(project, from), history.revisionsAt(project, to)]);
	const paths = [...new Set([...before.keys(), ...after.keys()])]
		.filter((path) => path !== LOCAL_FILE && before.get(path) !== after.get(path))
		.sort();
	const sides = { before, after };
	const changed = await differencesOf(paths, async (path, side) => {
		const revision = sides[side].get(path);
		return revision === undefined ? undefined : files.revision(project, path, revision);
	});
	return { count: paths.length, changed };
}

/** A file as it was at two changes. */
export async function compareTexts(
	{ history, files }: Stores,
	project: string,
	[from, to]: [number, number],
	path: string
): Promise<VersionTexts> {
	const [before, now] = await Promise.all(
		[from, to].map(async (change) => {
			const revision = (await history.revisionsAt(project, change)).get(path);
			return revision === undefined || path === LOCAL_FILE ? undefined : files.revision(project, path, revision);
		})
	);
	return textsOf(path, before, now);
}

/** Gives a project, or some of its files, what it was at a change; gives what takes it back. */
export async function goBackTo(
	{ history }: Stores,
	projects: Projects,
	project: OpenProject,
	change: number,
	only: readonly string[] = []
): Promise<Written[]> {
	const then = new Map((await history.filesAt(project.name, change)).map((file) => [file.path, file.bytes]));
	const paths = [...new Set([...then.keys(), ...project.files.keys()])].filter(
		(path) => path !== LOCAL_FILE && (only.length === 0 || only.includes(path))
	);
	const changes = paths.flatMap((path) => {
		const [old, now] = [then.get(path), project.files.get(path)];
		if (old && now ? old.equals(now.bytes) : old === now) return [];
		return [{ path, bytes: old, base: now?.revision ?? 0 }];
	});
	return changes.length === 0 ? [] : writtenBy(projects, project.name, changes);
}

/** Names a change. @throws HeronError name.mark, name.markTaken */
export async function markChange(history: HistoryStore, project: string, name: string, wanted: string): Promise<void> {
	if (!MARK.test(name)) throw new HeronError('name.mark', { name });
	const change = await history.find(project, wanted);
	await history.mark(project, name, change);
}

/** What a run takes. */
export interface TakenProject {
	project: OpenProject;
	/** The number of its revision. */
	revision: number;
	/** The name or number by which it was asked for; left out for the newest. */
	pinned?: string;
}

/**
 * The project that a run takes: at the revision that is asked for, or that its suite names, or as it is now. Where the suite
 * says so, the suite itself and the quarantine are as they are now; values of this machine always are.
 * @throws HeronError request.notFound
 */
export async function projectOfRun(
	{ history }: Stores,
	projects: Projects,
	project: OpenProject,
	{ targets, revision = '' }: { targets: readonly string[]; revision?: string | undefined }
): Promise<TakenProject> {
	const suite = targets.length === 1 ? project.workspace.suites.get(targets[0]!) : undefined;
	const pinned = revision || (suite?.revision ?? '');
	if (pinned === '') return { project, revision: await history.newest(project.name) };
	const change = await history.find(project.name, pinned);
	const now = [LOCAL_FILE, ...(revision === '' ? [QUARANTINE_FILE, `suites/${suite!.name}.yaml`] : [])];
	const then = (await history.filesAt(project.name, change)).filter(({ path }) => !now.includes(path));
	const kept = now.flatMap((path) => project.files.get(path) ?? []);
	return { project: await projects.assembled(project.name, [...then, ...kept]), revision: change, pinned };
}
