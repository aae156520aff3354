import { TLS_VERSIONS, plainTransport, type TlsVersion, type Transport } from '#core/model/transport.ts';
import net from 'node:net';
import { Duplex } from 'node:stream';
import tls from 'node:tls';
import { openSocket, protocolOf } from '../send/index.ts';

const PROBE_MS = 3000;
const SUITES_TRIED = 30;

interface Place {
	host: string;
	port: number;
	transport: Transport | undefined;
}

const SUPPORTED_VERSIONS = 43;
const VERSION_BYTES: Record<number, TlsVersion> = { 0x0301: '1.0', 0x0302: '1.1', 0x0303: '1.2', 0x0304: '1.3' };

/**
 * The version that a ServerHello agrees on, whatever comes after it (RFC 8446 sections 4.1.3 and 4.2.1); undefined where
 * a TLS record begins with anything else.
 */
function agreedVersion(bytes: Buffer): TlsVersion | undefined {
	const [HANDSHAKE, SERVER_HELLO] = [0x16, 2];
	if (bytes.length < 44 || bytes[0] !== HANDSHAKE || bytes[5] !== SERVER_HELLO) return undefined;
	// record 5, kind and length 4, version 2, random 32, session id, suite 2, compression 1, length of extensions 2
	let at = 43 + 1 + bytes[43]! + 3 + 2;
	while (at + 6 <= bytes.length) {
		if (bytes.readUInt16BE(at) === SUPPORTED_VERSIONS) return VERSION_BYTES[bytes.readUInt16BE(at + 4)];
		at += 4 + bytes.readUInt16BE(at + 2);
	}
	return VERSION_BYTES[bytes.readUInt16BE(9)];
}

/** A socket whose first bytes are looked at while it is used. */
function overheard(socket: net.Socket, first: (bytes: Buffer) => void): Duplex {
	const through = new Duplex({
		read: () => void socket.resume(),
		write: (chunk, _, done) => void socket.write(chunk as Buffer, done),
		final: (done) => void socket.end(done),
		destroy: (error, done) => {
			socket.destroy();
			done(error);
		}
	});
	socket.once('data', first);
	socket.on('data', (bytes: Buffer) => {
		if (!through.push(bytes)) socket.pause();
	});
	socket.once('end', () => through.push(null));
	socket.once('error', (error) => through.destroy(error));
	socket.once('close', () => through.destroy());
	return through;
}

/** One bare handshake; the suite that was agreed on, or undefined. */
async function handshake(
	{ host, port, transport }: Place,
	options: tls.SecureContextOptions,
	version: TlsVersion
): Promise<string | undefined> {
	const given = transport ?? plainTransport();
	let socket: net.Socket;
	try {
		// the way there, proxy included, without TLS
		socket = await openSocket({
			host,
			port,
			secure: false,
			connectLimit: PROBE_MS,
			transport: { ...given, proxy: undefined } as Transport
		});
	} catch {
		return undefined;
	}
	return new Promise((resolve) => {
		let context: tls.SecureContext;
		try {
			context = tls.createSecureContext(options);
		} catch {
			socket.destroy();
			return resolve(undefined);
		}
		const name = given.tls.name || host;
		let agreed = false;
		const upper = tls.connect({
			socket: overheard(socket, (bytes) => (agreed = agreedVersion(bytes) === version)),
			host: name,
			servername: net.isIP(name) ? '' : name,
			secureContext: context,
			rejectUnauthorized: false
		});
		const end = (suite?: string) => {
			clearTimeout(timer);
			upper.destroy();
			socket.destroy();
			resolve(suite);
		};
		const timer = setTimeout(end, PROBE_MS);
		upper.once('secureConnect', () => end(upper.getCipher()?.name));
		// a server that wants a client certificate refuses when version and suite are agreed on
		const refused = () => end(agreed ? 'agreed' : undefined);
		upper.once('error', refused);
		upper.once('close', refused);
	});
}

/** The TLS versions that a server takes, lowest first; asked directly, not through a proxy. */
export async function acceptedVersions(place: Place): Promise<TlsVersion[]> {
	const taken = await Promise.all(
		TLS_VERSIONS.map(async (version) => {
			const protocol = protocolOf(version);
			const suite = await handshake(
				place,
				{ minVersion: protocol, maxVersion: protocol, ciphers: 'ALL:@SECLEVEL=0' },
				version
			);
			return suite ? [version] : [];
		})
	);
	return taken.flat();
}

/** The cipher suites that a server takes at a version, in the order in which it prefers them. */
export async function acceptedSuites(place: Place, version: TlsVersion): Promise<string[]> {
	const protocol = protocolOf(version);
	const suites: string[] = [];
	const three = ['TLS_AES_256_GCM_SHA384', 'TLS_CHACHA20_POLY1305_SHA256', 'TLS_AES_128_GCM_SHA256'];
	for (let tried = 0; tried < SUITES_TRIED; tried++) {
		const ciphers =
			version === '1.3'
				? three.filter((suite) => !suites.includes(suite)).join(':')
				: ['ALL', ...suites.map((suite) => `!${suite}`), '@SECLEVEL=0'].join(':');
		if (!ciphers) break;
		const suite = await handshake(place, { minVersion: protocol, maxVersion: protocol, ciphers }, version);
		if (!suite || suite === 'agreed' || suites.includes(suite)) break;
		suites.push(suite);
	}
	return suites;
}

/** Whether a port speaks TLS of any version. */
export const speaksTls = async (place: Place): Promise<boolean> => (await acceptedVersions(place)).length > 0;

/** Whether a port answers a plain request in HTTP. */
export function answersPlain({ host, port }: Place): Promise<boolean> {
	return new Promise((resolve) => {
		const socket = net.connect({ host, port });
		const end = (is: boolean) => {
			clearTimeout(timer);
			socket.destroy();
			resolve(is);
		};
		const timer = setTimeout(() => end(false), PROBE_MS);
		socket.once('error', () => end(false));
		socket.once('data', (data) => end(data.toString('latin1').startsWith('HTTP/')));
		socket.once('connect', () => socket.write(`HEAD / HTTP/1.1\r\nHost: ${host}:${port}\r\nConnection: close\r\n\r\n`));
	});
}
