import { HeronError, textOf } from '#core/errors.ts';
import { LOCAL_FILE } from '#core/documents/local.ts';
import { documentKinds, PLAIN_FOLDERS } from '#core/documents/kinds.ts';
import { isProjectFile } from '#core/project/index.ts';
import { diskError } from '#server/disk.ts';
import { watch, type FSWatcher } from 'chokidar';
import { randomBytes } from 'node:crypto';
import { lstat, mkdir, open, readdir, readFile, realpath, rename, rm, stat } from 'node:fs/promises';
import { homedir } from 'node:os';
import { dirname, join, relative, resolve, sep } from 'node:path';

/** So many files may a project have. */
const MOST_FILES = 20_000;
/** A file that is larger is no file for a page, in bytes. */
const LARGEST = 100_000_000;
/** Changes that come in so short a time belong together. */
const TOGETHER_MS = 120;
/** Where no changes are told, the folder is looked through so often. */
const RESCAN_MS = 10_000;
const FOLDERS = new Set<string>([...documentKinds.map((kind) => kind.folder).filter(Boolean), ...PLAIN_FOLDERS]);

const isOwn = (path: string): boolean => isProjectFile(path) || path === LOCAL_FILE;
const isHidden = (name: string): boolean => name.startsWith('.') || name === 'node_modules';

/** A folder as a person writes it: `~` is theirs. */
export const folderPath = (given: string): string => resolve(given.replace(/^~(?=$|[\\/])/, () => homedir()));

function folderError(dir: string, path: string, error: unknown): HeronError {
	if (error instanceof HeronError) return error;
	const where = path ? join(dir, path) : dir;
	const other = { path: where, detail: textOf(error) };
	return diskError(error, where) ?? new HeronError('folder.failed', other, { cause: error });
}

/** A project's folder on this machine: read, written and watched. Paths are the project's own, with slashes. */
export class Mirror {
	/** The folder itself, links followed. */
	readonly dir: string;
	readonly #watching: { close(): Promise<void> };
	/** Its files as they were looked through before: what is another one since is a change. */
	#before: Map<string, string> | undefined;

	private constructor(dir: string, onChange: (paths: string[]) => void) {
		this.dir = dir;
		this.#watching = watchFolder(dir, () => this.#differences(), onChange);
	}

	/**
	 * Opens a folder.
	 * @param onChange hears the paths that may have changed, some time after they have
	 * @throws HeronError folder.failed
	 */
	static async open(dir: string, onChange: (paths: string[]) => void): Promise<Mirror> {
		try {
			const root = await realpath(folderPath(dir));
			if ((await stat(root)).isDirectory()) return new Mirror(root, onChange);
		} catch (error) {
			throw folderError(dir, '', error);
		}
		throw new HeronError('folder.failed', { path: dir, detail: 'it is a file' });
	}

	/** Paths of all its files, and something that is another one when a file has changed. @throws HeronError folder.* */
	async list(): Promise<Map<string, string>> {
		const out = new Map<string, string>();
		try {
			await this.#walk(this.dir, '', [this.dir], out);
		} catch (error) {
			throw folderError(this.dir, '', error);
		}
		this.#before ??= out;
		return out;
	}

	/** Paths of what is another one than when the folder was looked through before. @throws HeronError folder.* */
	async #differences(): Promise<string[]> {
		const before = this.#before;
		const now = await this.list();
		this.#before = now;
		if (!before) return [];
		const changed = [...now].filter(([path, state]) => before.get(path) !== state).map(([path]) => path);
		return [...changed, ...[...before.keys()].filter((path) => !now.has(path))];
	}

	/** The bytes of a file; undefined when it is not there. @throws HeronError folder.* */
	async read(path: string): Promise<Buffer | undefined> {
		try {
			return await readFile(await this.#placeOf(path));
		} catch (error) {
			const { code } = error as NodeJS.ErrnoException;
			if (code === 'ENOENT' || code === 'EISDIR' || code === 'ENOTDIR') return undefined;
			throw folderError(this.dir, path, error);
		}
	}

	/** Puts a file in the place of what is there, at once or not at all. @throws HeronError folder.* */
	async write(path: string, bytes: Uint8Array): Promise<void> {
		let temporary = '';
		try {
			const full = await this.#placeOf(path);
			await mkdir(dirname(full), { recursive: true });
			const before = await lstat(full).catch(() => undefined);
			if (before?.isDirectory()) throw Object.assign(new Error('it is a folder'), { code: 'EISDIR' });
			temporary = join(dirname(full), `.${randomBytes(6).toString('hex')}.heron`);
			const file = await open(temporary, 'wx', before ? before.mode & 0o777 : 0o644);
			try {
				await file.writeFile(bytes);
				await file.sync();
			} finally {
				await file.close();
			}
			await rename(temporary, full);
		} catch (error) {
			if (temporary) await rm(temporary, { force: true }).catch(() => {});
			throw folderError(this.dir, path, error);
		}
	}

	/** @throws HeronError folder.* */
	async remove(path: string): Promise<void> {
		try {
			await rm(await this.#placeOf(path), { force: true });
		} catch (error) {
			throw folderError(this.dir, path, error);
		}
	}

	close(): Promise<void> {
		return this.#watching.close();
	}

	/** Where a path lies; links lead no further than the folder. */
	async #placeOf(path: string): Promise<string> {
		const full = join(this.dir, path);
		const real = await realpath(full).catch(async (error: NodeJS.ErrnoException) => {
			if (error.code !== 'ENOENT') throw error;
			// a file that is to be made: its folder counts, or the nearest that is there
			let above = dirname(full);
			for (;;) {
				const found = await realpath(above).catch(() => undefined);
				if (found) return join(found, relative(above, full));
				above = dirname(above);
			}
		});
		if (real !== this.dir && !this.#holds(real))
			throw new HeronError('folder.failed', { path: full, detail: 'it is a link that leads out of the folder' });
		return real;
	}

	#holds(real: string): boolean {
		return real.startsWith(this.dir + sep);
	}

	/** @param chain the folders on the way, links followed */
	async #walk(at: string, below: string, chain: readonly string[], out: Map<string, string>): Promise<void> {
		for (const entry of await readdir(at, { withFileTypes: true })) {
			if (isHidden(entry.name)) continue;
			const path = below ? `${below}/${entry.name}` : entry.name;
			if (!below && !FOLDERS.has(entry.name) && !isOwn(entry.name)) continue;
			const full = join(at, entry.name);
			const found = await stat(full).catch(() => undefined);
			if (!found) continue;
			if (found.isDirectory()) {
				const real = await realpath(full);
				// a link in a circle, or out of the folder
				if (!chain.includes(real) && this.#holds(real)) await this.#walk(full, path, [...chain, real], out);
			} else if (found.isFile() && isOwn(path) && found.size <= LARGEST) {
				const real = entry.isSymbolicLink() ? await realpath(full) : full;
				if (this.#holds(real)) this.#add(out, path, `${found.mtimeMs} ${found.size} ${found.ino}`);
			}
		}
	}

	#add(out: Map<string, string>, path: string, state: string): void {
		out.set(path, state);
		if (out.size <= MOST_FILES) return;
		const detail = `it has more than ${MOST_FILES} files: is it a project?`;
		throw new HeronError('folder.failed', { path: this.dir, detail });
	}
}

/** Tells of changes by the system's events, and by looking through the folder where they do not come. */
function watchFolder(root: string, differences: () => Promise<string[]>, onChange: (paths: string[]) => void) {
	const waiting = new Set<string>();
	let timer: NodeJS.Timeout | undefined;
	let closed = false;
	const tell = (path: string) => {
		waiting.add(path);
		timer ??= setTimeout(() => {
			timer = undefined;
			const paths = [...waiting];
			waiting.clear();
			if (!closed) onChange(paths);
		}, TOGETHER_MS);
	};
	const watcher: FSWatcher = watch(root, {
		ignoreInitial: true,
		followSymlinks: false,
		ignored: (full) => {
			const path = relative(root, full).split(sep).join('/');
			if (path === '') return false;
			const [first = '', ...rest] = path.split('/');
			return [first, ...rest].some(isHidden) || (!FOLDERS.has(first) && !isOwn(path));
		}
	});
	watcher.on('all', (_, full) => {
		const path = relative(root, full).split(sep).join('/');
		if (isOwn(path)) tell(path);
	});
	// what the system does not tell is found all the same
	watcher.on('error', () => {});
	const rescan = async () => {
		const paths = await differences().catch(() => []);
		if (!closed) for (const path of paths) tell(path);
	};
	const net = setInterval(() => void rescan(), RESCAN_MS).unref();
	// until now the system's events were not heard
	watcher.on('ready', () => void rescan());
	return {
		async close() {
			closed = true;
			clearTimeout(timer);
			clearInterval(net);
			await watcher.close();
		}
	};
}
