import { HeronError } from '#core/errors.ts';
import { showDuration } from '#core/model/units.ts';
import net from 'node:net';
import tls from 'node:tls';

/** When a socket reached each stage, in milliseconds of `performance.now()`; 0 where a stage was not needed. */
export interface SocketMarks {
	start: number;
	name: number;
	connect: number;
	tls: number;
}

const marksOfSocket = new WeakMap<object, SocketMarks>();
export const socketMarks = (socket: object): SocketMarks | undefined => marksOfSocket.get(socket);

export interface SocketTarget {
	host: string;
	port: number;
	secure: boolean;
	/** Milliseconds until name, connection and TLS are there. */
	connectLimit: number;
}

/** Opens a connection, TLS included, and notes when each stage was reached. @throws HeronError send.* */
export function openSocket(target: SocketTarget): Promise<net.Socket> {
	const { host, port, secure, connectLimit } = target;
	return new Promise((resolve, reject) => {
		const marks: SocketMarks = { start: performance.now(), name: 0, connect: 0, tls: 0 };
		const socket = net.connect({ host, port, autoSelectFamily: true });
		socket.setNoDelay(true);
		let current: net.Socket = socket;
		let done = false;
		const fail = (error: unknown) => {
			if (done) return;
			done = true;
			clearTimeout(timer);
			current.destroy();
			socket.destroy();
			reject(error instanceof HeronError ? error : connectError(error, target, marks));
		};
		const phase = () =>
			marks.connect ? 'the TLS handshake' : marks.name || net.isIP(host) ? 'connecting' : 'finding the name';
		const timer = setTimeout(
			() => fail(new HeronError('send.timeout', { phase: phase(), limit: showDuration(connectLimit) })),
			connectLimit
		);
		const finish = (ready: net.Socket) => {
			if (done) return;
			done = true;
			clearTimeout(timer);
			socket.off('error', fail);
			ready.off('error', fail);
			marksOfSocket.set(ready, marks);
			resolve(ready);
		};
		socket.once('error', fail);
		socket.once('lookup', (error) => {
			if (!error) marks.name = performance.now();
		});
		socket.once('connect', () => {
			marks.connect = performance.now();
			if (!secure) return finish(socket);
			const secured = tls.connect({
				socket,
				host,
				servername: net.isIP(host) ? '' : host,
				ALPNProtocols: ['http/1.1']
			});
			current = secured;
			secured.once('error', fail);
			secured.once('secureConnect', () => {
				marks.tls = performance.now();
				finish(secured);
			});
		});
	});
}

function connectError(error: unknown, { host, port }: SocketTarget, marks: SocketMarks): HeronError {
	// with several addresses the reasons of all are in `errors`; the first one is the one that helps
	const first = error instanceof AggregateError ? (error.errors[0] as Error) : (error as Error);
	const { code = '', message } = first as NodeJS.ErrnoException;
	const values = { host, port };
	if (code === 'ECONNREFUSED') return new HeronError('send.refused', values, { cause: error });
	if (code === 'ENOTFOUND' || code === 'EAI_AGAIN') return new HeronError('send.name', { host }, { cause: error });
	if (['EHOSTUNREACH', 'ENETUNREACH', 'EADDRNOTAVAIL', 'EACCES'].includes(code)) {
		return new HeronError('send.unreachable', values, { cause: error });
	}
	if (code === 'ETIMEDOUT')
		return new HeronError('send.timeout', { phase: 'connecting', limit: 'the system allows' }, { cause: error });
	if (marks.connect && code !== 'ECONNRESET')
		return new HeronError('send.tls', { ...values, detail: message }, { cause: error });
	if (code === 'ECONNRESET' || code === 'EPIPE')
		return new HeronError('send.reset', { ...values, phase: 'while connecting' }, { cause: error });
	return new HeronError('send.failed', { detail: message }, { cause: error });
}
