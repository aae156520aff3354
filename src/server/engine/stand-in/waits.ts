import { setMaxListeners } from 'node:events';

/** What a stand-in waits for, all of which ends with it. */
export class Waits {
	readonly #closing = new AbortController();
	readonly #timers = new Set<NodeJS.Timeout>();

	constructor() {
		// every answer that waits listens
		setMaxListeners(0, this.#closing.signal);
	}

	/** Aborted when the stand-in closes. */
	get signal(): AbortSignal {
		return this.#closing.signal;
	}

	/** Resolves after some milliseconds, or when all ends. */
	pause(ms: number): Promise<void> {
		const { signal } = this.#closing;
		return new Promise((resolve) => {
			const finish = () => {
				clearTimeout(timer);
				signal.removeEventListener('abort', finish);
				resolve();
			};
			const timer = setTimeout(finish, ms);
			signal.addEventListener('abort', finish, { once: true });
		});
	}

	/** Does something after some milliseconds, unless all has ended before; it keeps no process alive. */
	later(ms: number, act: () => void): void {
		const timer = setTimeout(() => {
			this.#timers.delete(timer);
			act();
		}, ms).unref();
		this.#timers.add(timer);
	}

	end(): void {
		this.#closing.abort();
		for (const timer of this.#timers) clearTimeout(timer);
	}
}
