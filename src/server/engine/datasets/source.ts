import { closeSync, createReadStream, openSync, readFileSync, readSync, statSync } from 'node:fs';
import { basename } from 'node:path';

/** Where the bytes of a project's files come from. */
export interface DataSource {
	/** Paths of all files. */
	files(): Iterable<string>;
	size(path: string): number | undefined;
	/** The first bytes of a file. */
	head(path: string, size: number): Uint8Array;
	/** A file in pieces, from a byte on. */
	pieces(path: string, from: number): AsyncIterable<Uint8Array>;
	whole(path: string): Uint8Array;
}

const PIECE = 1 << 16;

/** Files that are in memory. */
export function memorySource(files: ReadonlyMap<string, Uint8Array>): DataSource {
	const whole = (path: string) => files.get(path) ?? new Uint8Array();
	return {
		files: () => files.keys(),
		size: (path) => files.get(path)?.length,
		head: (path, size) => whole(path).subarray(0, size),
		whole,

		async *pieces(path, from) {
			const bytes = whole(path);
			for (let at = from; at < bytes.length; at += PIECE) yield bytes.subarray(at, at + PIECE);
		}
	};
}

/** Files below a folder: what is large is read piece by piece. `locate` gives the full path of what may be read. */
export function folderSource(
	paths: readonly string[],
	locate: (path: string) => string | undefined,
	read: (path: string) => Uint8Array | undefined
): DataSource {
	return {
		files: () => paths,
		size(path) {
			const full = locate(path);
			return full === undefined ? undefined : statSync(full).size;
		},
		head(path, size) {
			const file = openSync(locate(path)!, 'r');
			try {
				const bytes = Buffer.alloc(size);
				return bytes.subarray(0, readSync(file, bytes, 0, size, 0));
			} finally {
				closeSync(file);
			}
		},
		whole: (path) => read(path) ?? new Uint8Array(),
		pieces: (path, from) => createReadStream(locate(path)!, { start: from, highWaterMark: PIECE })
	};
}

/** A source with one more file, from wherever it lies: somebody named it by hand. */
export function withFile(source: DataSource, full: string): { source: DataSource; data: string } {
	const path = `datasets/${basename(full)}`;
	const own = folderSource(
		[path],
		() => full,
		() => readFileSync(full)
	);
	const from = (wanted: string) => (wanted === path ? own : source);
	return {
		data: basename(full),
		source: {
			files: () => [...source.files(), path],
			size: (wanted) => from(wanted).size(wanted),
			head: (wanted, size) => from(wanted).head(wanted, size),
			pieces: (wanted, start) => from(wanted).pieces(wanted, start),
			whole: (wanted) => from(wanted).whole(wanted)
		}
	};
}
