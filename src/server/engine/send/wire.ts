import { HeronError } from '#core/errors.ts';
import type { PreparedRequest } from '#core/run/index.ts';
import { isStale, mayRepeat, type Sending, type Sent } from './exchange.ts';
import type { Caps } from './gathering.ts';
import { sendOnce } from './http1-call.ts';
import { Http2 } from './http2.ts';
import { createPool } from './pool.ts';

const AGAIN = 'a kept connection was closed before an answer came: it was sent once more, on a fresh one';

/** Sends single requests, and keeps connections. */
export class Wire {
	readonly #caps: Caps;
	readonly #pool = createPool();
	readonly #http2 = new Http2();
	readonly #reading = { bytes: 0 };
	#polled: Promise<void> | undefined;

	constructor(caps: Caps) {
		this.#caps = caps;
	}

	/** @param deadline a time of `performance.now()` @throws HeronError send.*, tls.* */
	async send(request: PreparedRequest, url: URL, signal: AbortSignal | undefined, deadline: number): Promise<Sent> {
		const [pool, caps, reading] = [this.#pool, this.#caps, this.#reading];
		const sending: Sending = { request, url, pool, caps, reading, signal, deadline };
		const { transport } = request;
		if (transport && transport.http !== '1.1' && (url.protocol === 'https:' || transport.http === '2')) {
			const sent = await this.#http2.send(sending);
			if (sent) return sent;
		}
		// what came meanwhile on a kept connection is read first: it is not the answer to what is asked now
		await this.#afterPoll();
		try {
			return await sendOnce(sending);
		} catch (error) {
			// the proxy has said by what it wants to be answered
			if (error instanceof HeronError && error.code === 'send.proxyAuth' && error.values.again === 'yes')
				return sendOnce(sending);
			// RFC 9112 section 9.3.1: a kept connection that the server had closed already; the request was not looked at
			if (!isStale(error) || !mayRepeat(request) || signal?.aborted) throw error;
			const sent = await sendOnce({ ...sending, fresh: true });
			return { ...sent, notes: [AGAIN, ...(sent.notes ?? [])] };
		}
	}

	close(): void {
		this.#pool.close();
		this.#http2.close();
	}

	/** Resolves when all that has come until now on kept connections was read; callers of a turn share one. */
	#afterPoll(): Promise<void> {
		return (this.#polled ??= new Promise<void>((resolve) =>
			setImmediate(() => {
				this.#polled = undefined;
				setImmediate(resolve);
			})
		));
	}
}
