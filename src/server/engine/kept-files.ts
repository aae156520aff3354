import { HeronError } from '#core/errors.ts';

/**
 * Files that steps keep, each for the part of a run that kept it: rows and scenarios that run side by side keep files by the same name,
 * and each sends its own.
 */
export class KeptFiles {
	readonly #files = new Map<string, Uint8Array>();
	/** The paths of each part, and the folder that they are in. */
	readonly #parts = new Map<string, { folder: string; paths: Set<string> }>();
	#count = 0;

	get(path: string): Uint8Array | undefined {
		return this.#files.get(path);
	}

	/** @returns the path by which steps name it @throws HeronError name.file */
	keep(name: string, bytes: Uint8Array, part: string): string {
		if (!/^\w[\w.-]*$/.test(name)) throw new HeronError('name.file', { name });
		let own = this.#parts.get(part);
		if (!own) {
			this.#count++;
			own = { folder: this.#count === 1 ? 'kept/' : `kept/${this.#count}/`, paths: new Set() };
			this.#parts.set(part, own);
		}
		const path = own.folder + name;
		own.paths.add(path);
		this.#files.set(path, bytes);
		return path;
	}

	drop(part: string): void {
		for (const path of this.#parts.get(part)?.paths ?? []) this.#files.delete(path);
		this.#parts.delete(part);
	}
}
