import { HeronError } from '#core/errors.ts';
import { showDuration, showSize } from '#core/model/units.ts';
import type { Sending, Sent } from './exchange.ts';
import { Gathering } from './gathering.ts';

/** As far as a timer of the platform reaches: more would end at once. */
const timerMs = (ms: number): number => Math.min(Math.max(0, ms), 2 ** 31 - 1);

/** Who waits for what comes of an attempt. */
export interface Ends {
	resolve(sent: Sent): void;
	reject(error: Error): void;
}

/** One call on one connection. It ends once: by its answer, an error, a limit of time, or because it is stopped. */
export abstract class Attempt {
	protected readonly sending: Sending;
	protected readonly at: { host: string; port: number };
	protected readonly body: Gathering;
	/** Times of `performance.now()`; 0 is what has not happened yet. */
	protected readonly begun = performance.now();
	protected sent = 0;
	protected first = 0;
	readonly #ends: Ends;
	readonly #timers = new Set<NodeJS.Timeout>();
	#settled = false;

	constructor(sending: Sending, ends: Ends) {
		const { url, caps, reading } = sending;
		this.sending = sending;
		this.at = {
			host: url.hostname.replace(/^\[|\]$/g, ''),
			port: Number(url.port || (url.protocol === 'https:' ? 443 : 80))
		};
		this.body = new Gathering(caps, reading);
		this.#ends = ends;
	}

	/** Makes an end of what goes on, before the error is reported; the error may be given more values. */
	protected abstract abandon(error: HeronError): void;

	/** To be called as it begins: from now on it can be stopped, and may not last for ever. */
	protected watch(): void {
		const { signal, deadline, request } = this.sending;
		signal?.addEventListener('abort', this.#onAbort, { once: true });
		this.limit(deadline - this.begun, 'the whole exchange', request.timeouts.whole);
	}
	/** @param ms until it fails @param shown the limit as it was set */
	protected limit(ms: number, phase: string, shown: number): NodeJS.Timeout {
		const over = () => this.fail(new HeronError('send.timeout', { phase, limit: showDuration(shown) }));
		const timer = setTimeout(over, timerMs(ms));
		this.#timers.add(timer);
		return timer;
	}
	/** The connection ended. */
	protected reset(cause?: Error): HeronError {
		const phase = this.first ? `in the middle of the body, after ${showSize(this.body.size)}` : 'before an answer came';
		return new HeronError('send.reset', { ...this.at, phase }, cause ? { cause } : undefined);
	}

	protected answered(sent: Sent): void {
		this.#settle(() => this.#ends.resolve(sent));
	}
	protected fail(error: HeronError): void {
		this.#settle(() => {
			this.abandon(error);
			this.#ends.reject(error);
		});
	}
	/** Reads the reply to its end. */
	protected conclude(reading: Promise<void>): void {
		reading.catch((error: Error) => this.#settle(() => this.#ends.reject(error)));
	}

	readonly #onAbort = (): void => {
		const reason: unknown = this.sending.signal?.reason;
		this.fail(reason instanceof HeronError ? reason : new HeronError('send.cancelled'));
	};
	#settle(act: () => void): void {
		if (this.#settled) return;
		this.#settled = true;
		this.body.release();
		for (const timer of this.#timers) clearTimeout(timer);
		this.sending.signal?.removeEventListener('abort', this.#onAbort);
		act();
	}
}
