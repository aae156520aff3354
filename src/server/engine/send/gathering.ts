import { showSize } from '#core/model/units.ts';

/** How much of a reply is read. */
export interface Caps {
	/** Bytes of a body that are read and kept. */
	body: number;
	header: number;
	/** Bytes of all bodies together that are being read at a time; without it there is no such limit. */
	together?: number;
}

/** How many bytes of bodies are being read, of all calls of an engine. */
export interface Reading {
	bytes: number;
}

/** The body of a reply as it comes, up to what it may hold, and what all that are being read may hold together. */
export class Gathering {
	readonly chunks: Buffer[] = [];
	/** Bytes that came, those that were not kept too. */
	size = 0;
	/** Why no more is kept. */
	cut: string | undefined;
	#held = 0;
	readonly #caps: Caps;
	readonly #reading: Reading;

	constructor(caps: Caps, reading: Reading) {
		this.#caps = caps;
		this.#reading = reading;
	}

	/** @returns whether it has just become too much: nothing of what follows is wanted */
	take(chunk: Buffer): boolean {
		this.size += chunk.length;
		if (this.cut) return false;
		this.#held += chunk.length;
		this.#reading.bytes += chunk.length;
		const { body, together } = this.#caps;
		const crowded = together !== undefined && this.#reading.bytes > together;
		if (this.size <= body && !crowded) {
			this.chunks.push(chunk);
			return false;
		}
		const most = crowded ? this.size : body;
		this.chunks.push(chunk.subarray(0, chunk.length - (this.size - most)));
		this.cut = crowded
			? `cut at ${showSize(this.size)}: all replies that are being read may hold ${showSize(together)} together`
			: `cut at ${showSize(body)}`;
		return true;
	}
	/** Once it is read, or will not be. */
	release(): void {
		this.#reading.bytes -= this.#held;
		this.#held = 0;
	}
}
