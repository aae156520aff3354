import { digestAsked, digestField, isStale, parseChallenges, type DigestAsked } from '#core/auth/index.ts';
import { HeronError, textOf } from '#core/errors.ts';
import { shortened } from '#core/model/shortened.ts';
import type { Proxy } from '#core/model/transport.ts';
import { randomBytes } from 'node:crypto';
import type { Socket } from 'node:net';

const HEADER_LIMIT = 65_536;
const KEPT = 200;
const TLS_ALERT = 0x15;

const proxyName = ({ host, port }: Proxy): string => `${host}:${port}`;
/** Why a proxy does not let us through, for whoever has to find the cause. */
type Reason = 'unreachable' | 'target' | 'forbidden' | 'tls' | 'notTls' | 'trust' | 'other';
export const proxyError = (proxy: Proxy, reason: Reason, detail: string, more: Record<string, string | number> = {}) =>
	new HeronError('send.proxy', { proxy: proxyName(proxy), reason, detail, ...more });

/** What proxies asked for by Digest, by proxy and user. */
const askedBy = new Map<string, DigestAsked>();
const keyOf = (proxy: Proxy): string => JSON.stringify([proxy.scheme, proxyName(proxy), proxy.user, proxy.password]);

/**
 * The value of Proxy-Authorization: Basic (RFC 7617) until the proxy asks for Digest (RFC 7616); undefined without a user.
 * @param uri the target of the request line, as it is sent
 */
export function proxyProof(proxy: Proxy, method: string, uri: string, body: Uint8Array): string | undefined {
	const { user, password } = proxy;
	if (!user && !password) return undefined;
	const asked = askedBy.get(keyOf(proxy));
	if (!asked) return `Basic ${Buffer.from(`${user}:${password}`).toString('base64')}`;
	const cnonce = randomBytes(16).toString('hex');
	return digestField(asked, { user, password, method, uri, body, cnonce }).field;
}

/** A proxy that asks who we are. `again` in its values: its challenge can be answered, so that sending once more may do. */
export function whoAsks(proxy: Proxy, status: number, challengeFields: string[]): HeronError {
	const { user, password } = proxy;
	// SOCKS has no status
	const shown = status ? ` (${status})` : '';
	const wrong = (detail: string, more = {}) =>
		new HeronError('send.proxyAuth', { proxy: proxyName(proxy), detail, status, ...more });
	if (!user && !password)
		return wrong(`wants to know who asks${shown}: give user and password of the proxy in the connection`);
	const challenges = parseChallenges(challengeFields);
	const schemes = challenges.map(({ scheme }) => scheme);
	if (schemes.includes('digest')) {
		const before = askedBy.get(keyOf(proxy));
		const asked = digestAsked(challenges);
		if (!('wanted' in asked) && (!before || (isStale(challenges) && before.nonce !== asked.nonce))) {
			if (askedBy.size >= KEPT) askedBy.clear();
			askedBy.set(keyOf(proxy), asked);
			return wrong(`asks by Digest${shown}`, { again: 'yes' });
		}
		askedBy.delete(keyOf(proxy));
	} else if (schemes.length > 0 && !schemes.includes('basic'))
		return wrong(`asks for ${schemes.join(', ')}${shown}, and only Basic and Digest can be answered`);
	return wrong(`does not accept the user ${user} with the password that the connection gives${shown}`, {
		denied: 'yes'
	});
}

/** Asks a proxy for a tunnel (RFC 9110 section 9.3.6). @throws HeronError send.proxy, send.proxyAuth */
export function connectThrough(socket: Socket, proxy: Proxy, host: string, port: number): Promise<void> {
	const authority = `${host.includes(':') ? `[${host}]` : host}:${port}`;
	return new Promise((resolve, reject) => {
		let text = '';
		const end = (error?: HeronError) => {
			socket.off('data', hear).off('end', gone);
			if (error) reject(error);
			else resolve();
		};
		const gone = () => end(proxyError(proxy, 'other', 'it closed the connection'));
		const hear = (data: Buffer) => {
			text += data.toString('latin1');
			// RFC 8446 section 6: an alert, for what was no handshake
			if (text.charCodeAt(0) === TLS_ALERT)
				return end(proxyError(proxy, 'tls', 'it speaks TLS: its address should start with https://'));
			const close = text.indexOf('\r\n\r\n');
			if (close < 0) {
				if (text.length > HEADER_LIMIT) end(proxyError(proxy, 'other', 'its answer has no end'));
				return;
			}
			const [line = '', ...fields] = text.slice(0, close).split('\r\n');
			const status = Number(/^HTTP\/1\.[01] (\d{3})/.exec(line)?.[1] ?? 0);
			if (status === 407 || status === 401) {
				const challenges = fields.flatMap((field) => /^(?:proxy|www)-authenticate:\s*(.*)$/i.exec(field)?.[1] ?? []);
				return end(whoAsks(proxy, status, challenges));
			}
			if (status < 200 || status > 299) {
				const said = `it answered ${shortened(line.replace(/\p{Cc}/gu, '·'), 80)}`;
				const reason = status >= 502 && status <= 504 ? 'target' : 'forbidden';
				return end(
					status === 0
						? proxyError(proxy, 'other', `what answers there is no proxy of HTTP; it starts with: ${said.slice(12)}`)
						: proxyError(proxy, reason, said, { status })
				);
			}
			// what came behind the header belongs to the tunnel already
			const rest = text.slice(close + 4);
			if (rest) socket.unshift(Buffer.from(rest, 'latin1'));
			end();
		};
		socket.on('data', hear).once('end', gone);
		const proof = proxyProof(proxy, 'CONNECT', authority, new Uint8Array());
		socket.write(
			`CONNECT ${authority} HTTP/1.1\r\nHost: ${authority}\r\n${proof ? `Proxy-Authorization: ${proof}\r\n` : ''}\r\n`
		);
	});
}

/** What a SOCKS proxy answers (RFC 1928 section 6), by the library's words. */
const SOCKS_REASONS: [pattern: RegExp, reason: Reason, words: string][] = [
	[/NotAllowed/, 'forbidden', 'its rules forbid this host or port'],
	[/NetworkUnreachable/, 'target', 'it has no way to the network of the host'],
	[/HostUnreachable/, 'target', 'it does not reach the host'],
	[/ConnectionRefused/, 'target', 'the host refuses the connection'],
	[/TTLExpired/, 'target', 'the way to the host is too long'],
	[/AddressNotSupported/, 'target', 'it does not take this kind of address'],
	[/CommandNotSupported/, 'forbidden', 'it makes no connections'],
	[/invalid socks version|Received invalid/i, 'other', 'what answers there is no SOCKS 5 proxy'],
	[/closed/i, 'other', 'it closed the connection']
];

/** Asks a SOCKS 5 proxy for a connection, the name resolved there (RFC 1928, RFC 1929). @throws as `connectThrough` */
export async function socksThrough(
	socket: Socket,
	proxy: Proxy,
	host: string,
	port: number,
	limit: number
): Promise<void> {
	const { SocksClient } = await import('socks');
	const { user, password } = proxy;
	try {
		await SocksClient.createConnection({
			proxy: {
				host: proxy.host,
				port: proxy.port,
				type: 5,
				...(user || password ? { userId: user, password } : {})
			},
			command: 'connect',
			destination: { host, port },
			existing_socket: socket,
			timeout: limit
		});
	} catch (error) {
		const message = textOf(error);
		if (/authentication|no accepted/i.test(message)) throw whoAsks(proxy, 0, []);
		const [, reason, words] = SOCKS_REASONS.find(([pattern]) => pattern.test(message)) ?? [];
		throw proxyError(proxy, reason ?? 'other', words ?? message);
	}
}
