import { TLS_VERSIONS, plainTransport, type TlsVersion, type Transport } from '#core/model/transport.ts';
import net from 'node:net';
import tls from 'node:tls';
import { openSocket, protocolOf } from '../send/index.ts';

const PROBE_MS = 3000;
const SUITES_TRIED = 30;

interface Place {
	host: string;
	port: number;
	transport: Transport | undefined;
}

/** One bare handshake; the suite that was agreed on, or undefined. */
async function handshake(
	{ host, port, transport }: Place,
	options: tls.SecureContextOptions
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
		const upper = tls.connect({
			socket,
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
		// an alert that asks for a client certificate comes when versions and suite are agreed on
		upper.once('error', (error: NodeJS.ErrnoException) =>
			end(/CERTIFICATE/.test(error.code ?? '') ? 'agreed' : undefined)
		);
		upper.once('close', () => end());
	});
}

/** The TLS versions that a server takes, lowest first; asked directly, not through a proxy. */
export async function acceptedVersions(place: Place): Promise<TlsVersion[]> {
	const taken = await Promise.all(
		TLS_VERSIONS.map(async (version) => {
			const protocol = protocolOf(version);
			const suite = await handshake(place, { minVersion: protocol, maxVersion: protocol, ciphers: 'ALL:@SECLEVEL=0' });
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
		const suite = await handshake(place, { minVersion: protocol, maxVersion: protocol, ciphers });
		if (!suite || suite === 'agreed' || suites.includes(suite)) break;
		suites.push(suite);
	}
	return suites;
}

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
