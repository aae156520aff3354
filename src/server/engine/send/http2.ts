import { HeronError } from '#core/errors.ts';
import http2 from 'node:http2';
import type { TLSSocket } from 'node:tls';
import { isStale, mayRepeat, type Sending, type Sent } from './exchange.ts';
import { callOver, type Open } from './http2-call.ts';
import { openSocket } from './socket.ts';

const IDLE_MS = 30_000;
const AGAIN = 'the server was closing its HTTP/2 session: it was sent over another one (RFC 9113 section 6.8)';
const STALE = 'a kept HTTP/2 session was closed before an answer came: it was sent once more, over a fresh one';

/** Opens a session; undefined when the server does not offer HTTP/2 and HTTP/1.1 will do. @throws HeronError send.*, tls.* */
async function open({ request, url }: Sending): Promise<Open | undefined> {
	const { transport, timeouts } = request;
	const host = url.hostname.replace(/^\[|\]$/g, '');
	const secure = url.protocol === 'https:';
	const port = Number(url.port || (secure ? 443 : 80));
	const only = transport?.http === '2';
	const socket = await openSocket({
		...{ host, port, secure, transport },
		connectLimit: timeouts.connect,
		tunnel: true,
		alpn: only ? ['h2'] : ['h2', 'http/1.1']
	});
	if (secure && (socket as TLSSocket).alpnProtocol !== 'h2') {
		socket.destroy();
		if (!only) return undefined;
		throw new HeronError('send.http2', { host, port, detail: 'the server does not offer it' });
	}
	const session = http2.connect(url.origin, { createConnection: () => socket });
	session.setTimeout(IDLE_MS, () => session.close());
	session.unref();
	// a session that fails while nothing is asked is nobody's fault: the next call takes another one
	session.on('error', () => {});
	const made: Open = { session, socket, used: false, last: Infinity };
	// RFC 9113 section 6.8: no further stream is taken; those above the last one were not looked at
	session.on('goaway', (_, lastStream: number) => (made.last = lastStream));
	return made;
}

const keyOf = ({ url, request }: Sending): string => `${url.origin} ${request.transport?.key ?? ''}`;

/** Sessions of HTTP/2, one for each origin and transport. */
export class Http2 {
	readonly #sessions = new Map<string, Promise<Open | undefined>>();

	/** Sends over HTTP/2; undefined when the server does not offer it and HTTP/1.1 will do. @throws HeronError send.*, tls.* */
	async send(sending: Sending): Promise<Sent | undefined> {
		if (sending.signal?.aborted) throw new HeronError('send.cancelled');
		for (let note: string | undefined; ;) {
			const made = await this.#sessionFor(sending);
			if (!made) return undefined;
			const gone = made.session.closed || made.session.destroyed || made.last !== Infinity;
			if (gone && !note) {
				this.#sessions.delete(keyOf(sending));
				note = AGAIN;
				continue;
			}
			try {
				const sent = await callOver(made, sending);
				return note ? { ...sent, notes: [note, ...(sent.notes ?? [])] } : sent;
			} catch (error) {
				// what was not looked at happens once when it is sent again, whatever its method
				const untouched = error instanceof HeronError && error.values.untouched === 'yes';
				const again = untouched ? AGAIN : isStale(error) && mayRepeat(sending.request) ? STALE : undefined;
				if (!again || note || sending.signal?.aborted) throw error;
				note = again;
				this.#sessions.delete(keyOf(sending));
			}
		}
	}

	close(): void {
		for (const session of this.#sessions.values()) session.then((made) => made?.session.destroy()).catch(() => {});
		this.#sessions.clear();
	}

	#sessionFor(sending: Sending): Promise<Open | undefined> {
		const key = keyOf(sending);
		const found = this.#sessions.get(key);
		if (found) return found;
		const made = open(sending);
		this.#sessions.set(key, made);
		// one that goes away gives way to another; what runs over it goes on
		const drop = () => void (this.#sessions.get(key) === made && this.#sessions.delete(key));
		made.then((one) => one?.session.once('close', drop).once('goaway', drop).on('error', drop), drop);
		return made;
	}
}
