import type { HeaderList } from '#core/model/reply.ts';
import type { StandIn } from '#core/documents/stand-in.ts';
import type { Answered, Asked } from '#core/stand-in/index.ts';
import type http from 'node:http';
import type { TLSSocket } from 'node:tls';
import type { Waits } from './waits.ts';

type Given = Answered['given'];

/** How long nothing is answered where that is the fault. */
const SILENT_MS = 300_000;
const PIECES = 20;

/** What was asked. @param origin of the stand-in itself */
export function askedOf(
	request: http.IncomingMessage,
	body: Uint8Array,
	{ tls }: Pick<StandIn, 'tls'>,
	origin: string
): Asked {
	const headers: HeaderList = [];
	const { rawHeaders } = request;
	for (let i = 0; i + 1 < rawHeaders.length; i += 2) headers.push([rawHeaders[i]!, rawHeaders[i + 1]!]);
	const url = request.url ?? '/';
	// a whole address is what a proxy is asked (RFC 9112 section 3.2.2)
	const target = /^https?:\/\/[^/]*/i.test(url) ? url.replace(/^https?:\/\/[^/?#]*/i, '') || '/' : url;
	const certificate = tls.client ? certificateOf(request.socket as TLSSocket) : undefined;
	const asked: Asked = { method: request.method ?? 'GET', target, headers, body, origin };
	return certificate ? { ...asked, certificate } : asked;
}

/** The certificate that a client has shown; undefined where it has shown none. */
function certificateOf(socket: TLSSocket): Asked['certificate'] {
	const shown = socket.getPeerCertificate();
	// an empty object stands for none
	if (!shown?.subject) return undefined;
	const nameOf = (parts: object): string =>
		Object.entries(parts)
			.map(([key, value]) => `${key}=${String(value)}`)
			.join(', ');
	return { subject: nameOf(shown.subject), issuer: nameOf(shown.issuer), fingerprint: shown.fingerprint256 };
}

/** Header fields as Node takes them, in order; the length is ours. */
function flat(headers: HeaderList, length: number | undefined): string[] {
	const out: string[] = [];
	for (const [name, value] of headers)
		if (name.length !== 14 || name.toLowerCase() !== 'content-length') out.push(name, value);
	if (length !== undefined) out.push('Content-Length', String(length));
	return out;
}

/** Writes an answer whole. */
export function write(
	response: http.ServerResponse,
	{ status, headers, body, surplus = 0 }: Pick<Given, 'status' | 'headers' | 'body'> & { surplus?: number },
	method: string | undefined
): void {
	const bare = status === 204 || status === 304 || status < 200;
	if (method === 'HEAD' || bare) {
		response.writeHead(status, flat(headers, bare ? undefined : body.length));
		response.end();
		return;
	}
	response.writeHead(status, flat(headers, body.length + surplus));
	if (surplus === 0) return void response.end(body);
	response.write(body, () => response.socket?.destroySoon());
}

/** Answers as it is to be answered: whole, in drops, in half, never, or with a broken connection. */
export async function respond(
	response: http.ServerResponse,
	given: Given,
	method: string,
	waits: Waits
): Promise<void> {
	const { socket } = response;
	const { end, body, drip } = given;
	if (end === 'reset') socket?.resetAndDestroy();
	else if (end === 'silent') waits.later(SILENT_MS, () => socket?.destroy());
	else if (end === 'half') {
		response.writeHead(given.status, flat(given.headers, body.length));
		response.write(body.subarray(0, Math.floor(body.length / 2)), () => socket?.destroySoon());
	} else if (drip > 0 && body.length > 1) await dripped(response, given, waits);
	else write(response, given, method);
}

async function dripped(
	response: http.ServerResponse,
	{ status, headers, body, drip, surplus }: Given,
	waits: Waits
): Promise<void> {
	response.writeHead(status, flat(headers, body.length + surplus));
	const pieces = Math.min(PIECES, body.length);
	for (let at = 0; at < pieces; at++) {
		await waits.pause(drip / pieces);
		if (response.destroyed) return;
		response.write(
			body.subarray(Math.floor((at * body.length) / pieces), Math.floor(((at + 1) * body.length) / pieces))
		);
	}
	response.end();
}
