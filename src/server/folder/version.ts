import { HeronError } from '#core/errors.ts';
import { execFile, type ExecFileException } from 'node:child_process';
import { existsSync } from 'node:fs';
import { dirname, join, posix, resolve } from 'node:path';

/** How a file differs from the commit. */
type VersionChange = 'new' | 'changed' | 'gone' | 'conflict';

/** Where a folder stands in its version control. */
export interface VersionState {
	/** Empty when no branch is checked out. */
	branch: string;
	/** Empty before the first commit. */
	commit: string;
	/** Something is under way that is not committed yet: merge, rebase, cherry-pick or revert. */
	unfinished: string;
	/** Files below the folder that differ from the commit, by their paths there. */
	changed: Map<string, VersionChange>;
}

const LIMIT_MS = 10_000;
/** What writes may wait for a slow disk: one that is ended midway leaves half of it. */
const WRITE_LIMIT_MS = 120_000;
const MOST_BYTES = 32_000_000;

/** The environment without what a hook of git says of another repository. */
const ownEnv = (): NodeJS.ProcessEnv =>
	Object.fromEntries(Object.entries(process.env).filter(([name]) => !/^GIT_/.test(name)));

const wordsOf = (bytes: Buffer): string => bytes.toString('utf8').trim().slice(0, 2000);

/** How git ended that says nothing itself. */
function endOf({ killed, signal, code }: ExecFileException, limit: number): string {
	if (killed) return `it took longer than ${limit / 1000} s`;
	if (signal) return `it was ended by ${signal}`;
	return typeof code === 'string' ? `it could not be started: ${code}` : `it ended with ${code} and without a word`;
}

/** Nothing in a folder's settings may start a program. */
const FIXED = ['core.fsmonitor=false', 'core.hooksPath=/dev/null', 'core.quotePath=false', 'commit.gpgSign=false'];

const start = (dir: string, args: readonly string[], limit = LIMIT_MS): Promise<{ out: Buffer; trouble?: string }> =>
	new Promise((resolve) => {
		execFile(
			'git',
			['-C', dir, ...args],
			{
				timeout: limit,
				maxBuffer: MOST_BYTES,
				encoding: 'buffer',
				env: { ...ownEnv(), GIT_OPTIONAL_LOCKS: '0', GIT_TERMINAL_PROMPT: '0', LC_ALL: 'C' }
			},
			(error, out, err) =>
				resolve({ out, ...(error ? { trouble: wordsOf(err) || wordsOf(out) || endOf(error, limit) } : {}) })
		);
	});

/** Settings that keep the filters of a repository's own settings from running: they are programs. */
async function withoutFilters(dir: string): Promise<string[]> {
	const { out } = await start(dir, [
		'config',
		'--local',
		'--includes',
		'--name-only',
		'-z',
		'--get-regexp',
		'^filter\\.'
	]);
	const names = out.toString('utf8').split('\0').filter(Boolean);
	return names.map((name) => `${name}${/\.required$/i.test(name) ? '=false' : '='}`);
}

/** What comes close together is asked for once: filters of a repository hardly change. */
const SETTINGS_MS = 2000;
const settingsOf = new Map<string, { at: number; filters: Promise<string[]> }>();

function filtersOff(dir: string): Promise<string[]> {
	const now = performance.now();
	const known = settingsOf.get(dir);
	if (known && now - known.at < SETTINGS_MS) return known.filters;
	const filters = withoutFilters(dir);
	settingsOf.clear();
	settingsOf.set(dir, { at: now, filters });
	return filters;
}

async function run(dir: string, args: readonly string[], limit?: number): Promise<{ out: Buffer; trouble?: string }> {
	const settings = [...FIXED, ...(await filtersOff(dir))];
	return start(dir, [...settings.flatMap((one) => ['-c', one]), ...args], limit);
}

/**
 * Runs git, reading only.
 * @returns undefined where it fails: no git, no repository, too slow
 */
async function git(dir: string, ...args: string[]): Promise<Buffer | undefined> {
	const { out, trouble } = await run(dir, args);
	return trouble === undefined ? out : undefined;
}

/** Whether a folder lies in a checkout: asked before anything is started. */
export function isInCheckout(dir: string): boolean {
	for (let at = resolve(dir); ; at = dirname(at)) {
		if (existsSync(join(at, '.git'))) return true;
		if (dirname(at) === at) return false;
	}
}

/** Where a folder stands; undefined when it is in no version control that can be read. */
export async function versionOf(dir: string): Promise<VersionState | undefined> {
	const [status, prefix, inner] = await Promise.all([
		git(dir, 'status', '--porcelain=v2', '--branch', '-z', '--untracked-files=all', '--ignore-submodules', '--', '.'),
		git(dir, 'rev-parse', '--show-prefix'),
		git(dir, 'rev-parse', '--git-path', 'MERGE_HEAD', '--git-path', 'rebase-merge')
	]);
	if (!status || !prefix) return undefined;
	return {
		...readStatus(status.toString('utf8'), prefix.toString('utf8').trim()),
		unfinished: await unfinishedIn(dir, inner)
	};
}

/** Reads `git status --porcelain=v2 --branch -z`. @param below the folder within the repository, with a slash at its end, or empty */
export function readStatus(text: string, below: string): Omit<VersionState, 'unfinished'> {
	let branch = '';
	let commit = '';
	const changed = new Map<string, VersionChange>();
	const put = (path: string, change: VersionChange) => {
		if (path.startsWith(below)) changed.set(path.slice(below.length), change);
	};
	const parts = text.split('\0');
	for (let at = 0; at < parts.length; at++) {
		const line = parts[at]!;
		const [kind = '', states = ''] = line.split(' ');
		if (kind === '#') {
			const [, name, value = ''] = line.split(' ');
			if (name === 'branch.head' && value !== '(detached)') branch = value;
			if (name === 'branch.oid' && value !== '(initial)') commit = value;
		} else if (kind === '?') put(line.slice(2), 'new');
		else if (kind === 'u') put(line.split(' ').slice(10).join(' '), 'conflict');
		else if (kind === '1') put(line.split(' ').slice(8).join(' '), changeOf(states));
		else if (kind === '2') {
			// a rename: the path it had follows
			put(line.split(' ').slice(9).join(' '), 'new');
			put(parts[++at] ?? '', 'gone');
		}
	}
	return { branch, commit, changed };
}

const changeOf = (states: string): VersionChange =>
	states.includes('D') ? 'gone' : states.includes('A') ? 'new' : 'changed';

async function unfinishedIn(dir: string, inner: Buffer | undefined): Promise<string> {
	if (!inner) return '';
	const { access } = await import('node:fs/promises');
	const there = (path: string) =>
		access(posix.isAbsolute(path) ? path : posix.join(dir, path)).then(
			() => true,
			() => false
		);
	const [merge = '', rebase = ''] = inner.toString('utf8').split('\n');
	if (merge && (await there(merge))) return 'merge';
	return rebase && (await there(rebase)) ? 'rebase' : '';
}

/** The bytes that a file had in the commit; undefined when it was not there. */
export const committed = (dir: string, path: string): Promise<Buffer | undefined> => git(dir, 'show', `HEAD:./${path}`);

/** So many files of commits are kept: a page that is worked on asks for the same ones with every change. */
const MOST_KEPT = 200;
const LARGEST_KEPT = 500_000;
const kept = new Map<string, Buffer>();

/** As `committed`, of a commit by its hash: what it holds never changes. */
export async function committedIn(dir: string, commit: string, path: string): Promise<Buffer | undefined> {
	const key = `${commit} ${dir} ${path}`;
	const known = kept.get(key);
	if (known) return known;
	const bytes = await git(dir, 'show', `${commit}:./${path}`);
	if (!bytes || bytes.length > LARGEST_KEPT) return bytes;
	if (kept.size >= MOST_KEPT) kept.delete(kept.keys().next().value!);
	kept.set(key, bytes);
	return bytes;
}

/**
 * Commits some files of a folder as they stand, and nothing else that is staged. Hooks and signatures are left out.
 * @param paths below the folder
 * @throws HeronError version.git with what git says: nobody is named as author, a merge is under way
 */
export async function commitFiles(dir: string, paths: readonly string[], message: string): Promise<void> {
	const literal = paths.map((path) => `:(literal)${path}`);
	const steps = [
		// new files are made known; ones that are gone are known already
		['add', '--intent-to-add', '--ignore-removal', '--', ...literal],
		['commit', '--only', '--no-verify', '--cleanup=strip', '--message', message, '--', ...literal]
	];
	for (const args of steps) {
		const { trouble } = await run(dir, args, WRITE_LIMIT_MS);
		if (trouble !== undefined) throw new HeronError('version.git', { detail: trouble });
	}
}
