import { HeronError } from '../errors.ts';
import { decodeText, unescapeAddress } from '../values/index.ts';

/** Versions of TLS, the oldest first. */
export const TLS_VERSIONS = ['1.0', '1.1', '1.2', '1.3'] as const;
/** A version of TLS. */
export type TlsVersion = (typeof TLS_VERSIONS)[number];
/** Versions of HTTP that a connection may ask for; `auto` takes what the server chooses (RFC 7301). */
export const HTTP_VERSIONS = ['1.1', '2', 'auto'] as const;
/** A version of HTTP, or `auto`. */
export type HttpVersion = (typeof HTTP_VERSIONS)[number];

/** A certificate that is shown, as files of the project or PEM. */
interface ClientCertificate {
	certificate: string;
	key: string;
	pkcs12: string;
	passphrase: string;
}

/** How TLS is spoken. */
export interface TlsSettings {
	min: TlsVersion | '';
	max: TlsVersion | '';
	/** Files of the project, or PEM. */
	authorities: string[];
	client?: ClientCertificate;
	name: string;
	verify: boolean;
}

/** What of a connection says how it is transported. */
export interface TransportSettings {
	http: HttpVersion;
	proxy: { address: string; user: string; password: string; except: string[] };
	tls?: TlsSettings;
}

/** The versions that are spoken: 1.2 and 1.3 unless something else is said. */
export function versionRange({ min, max }: { min?: TlsVersion | ''; max?: TlsVersion | '' }): {
	min: TlsVersion;
	max: TlsVersion;
} {
	const highest = max || '1.3';
	return { min: min || (highest < '1.2' ? highest : '1.2'), max: highest };
}

/** The schemes of proxies, with the port that each has when none is given. */
const PROXY_PORTS = { http: 80, https: 443, socks5: 1080 } as const;
type ProxyScheme = keyof typeof PROXY_PORTS;

/**
 * The address of a proxy; undefined when it is none. The scheme may be left out.
 * `http` and `https` are asked by RFC 9110 sections 7.3.2 and 9.3.6, `socks5` by RFC 1928; names are resolved there.
 */
export function proxyAddress(text: string): URL | undefined {
	const address = (text.includes('://') ? text : `http://${text}`).trim();
	if (!URL.canParse(address)) return undefined;
	const url = new URL(address);
	return Object.hasOwn(PROXY_PORTS, url.protocol.slice(0, -1)) && url.hostname ? url : undefined;
}

/** How calls go by way of others. */
export interface Proxy {
	scheme: ProxyScheme;
	host: string;
	port: number;
	user: string;
	password: string;
}

/** A proxy is asked for each call with its whole address (RFC 9112 section 3.2.2); else it makes a tunnel. */
export const relays = (proxy: Proxy | undefined, secure: boolean): boolean =>
	proxy !== undefined && !secure && proxy.scheme !== 'socks5';

/** Who we are in a TLS handshake: a PEM pair, or a PKCS#12 file. */
export interface ClientIdentity {
	certificate?: string;
	key?: string;
	pkcs12?: Uint8Array;
	passphrase?: string;
}

/** How bytes get to the other side, with every value filled in and every file read. */
export interface Transport {
	/** Connections are shared by requests whose transport has the same key. */
	key: string;
	http: HttpVersion;
	proxy?: Proxy;
	tls: {
		min: TlsVersion | '';
		max: TlsVersion | '';
		/** PEM; trusted beside the machine's own authorities. */
		authorities: string[];
		client?: ClientIdentity;
		/** The name that is asked for, which the certificate must hold; empty for the host's. */
		name: string;
		verify: boolean;
	};
}

/** A transport with nothing set. */
export const plainTransport = (): Transport => ({
	key: '',
	http: '1.1',
	tls: { min: '', max: '', authorities: [], name: '', verify: true }
});

type ReadFile = (path: string) => Uint8Array | undefined;

const isPem = (text: string) => text.includes('-----BEGIN ');

/** PEM as it stands, or the text of a project's file. */
export function pemOf(text: string, read: ReadFile | undefined): string {
	if (isPem(text) || !text) return text;
	const bytes = read?.(text.trim());
	if (!bytes) throw new HeronError('file.missing', { file: text });
	return decodeText(bytes).text;
}

function fileOfProject(path: string, read: ReadFile | undefined): Uint8Array {
	const bytes = read?.(path.trim());
	if (!bytes) throw new HeronError('file.missing', { file: path });
	return bytes;
}

/** Reads a client identity: files by their path in the project, or PEM. */
export function clientIdentity(
	given: { certificate?: string; key?: string; pkcs12?: string; passphrase?: string },
	read: ReadFile | undefined
): ClientIdentity {
	const { certificate, key, pkcs12, passphrase } = given;
	return {
		...(certificate ? { certificate: pemOf(certificate, read) } : {}),
		...(key ? { key: pemOf(key, read) } : {}),
		...(pkcs12 ? { pkcs12: fileOfProject(pkcs12, read) } : {}),
		...(passphrase ? { passphrase } : {})
	};
}

/** The transport for another host than the one it was made for: without the certificate that says who we are. */
export function strangersTransport(transport: Transport): Transport {
	const { client, ...tls } = transport.tls;
	void client;
	const next = { ...transport, tls: { ...tls, name: '' } };
	next.key = keyOf(next);
	return next;
}

const keyOf = ({ key: _, ...transport }: Transport): string => {
	void _;
	// eslint-disable-next-line no-restricted-syntax -- settings hold no integers of any size
	return JSON.stringify(transport, (_name, value: unknown) =>
		value instanceof Uint8Array ? Array.from(value) : value
	);
};

/** Whether a host is among those that are reached without the proxy: a name, `.suffix`, or `*`. */
export const bypasses = (host: string, except: string[]): boolean =>
	except.some((entry) => {
		const name = entry.trim().toLowerCase().replace(/^\*\./, '.');
		return name === '*' || name === host.toLowerCase() || (name.startsWith('.') && host.toLowerCase().endsWith(name));
	});

/** The transport of a connection to a host; undefined when nothing differs from the usual. */
export function transportOf(
	settings: TransportSettings,
	host: string,
	read: ReadFile | undefined
): Transport | undefined {
	const { http, proxy, tls } = settings;
	const proxied = proxy.address !== '' && !bypasses(host, proxy.except);
	if (http === '1.1' && !proxied && !tls) return undefined;
	const transport = plainTransport();
	transport.http = http;
	if (proxied) {
		const url = proxyAddress(proxy.address);
		if (!url) throw new HeronError('connection.proxy', { address: proxy.address });
		const scheme = url.protocol.slice(0, -1) as ProxyScheme;
		transport.proxy = {
			scheme,
			host: url.hostname.replace(/^\[|\]$/g, ''),
			port: Number(url.port || PROXY_PORTS[scheme]),
			user: proxy.user || unescapeAddress(url.username),
			password: proxy.password || unescapeAddress(url.password)
		};
	}
	if (tls) {
		transport.tls = {
			min: tls.min,
			max: tls.max,
			authorities: tls.authorities.map((text) => {
				const pem = pemOf(text, read);
				if (!isPem(pem)) throw new HeronError('tls.pem', { file: text });
				return pem;
			}),
			name: tls.name,
			verify: tls.verify,
			...(tls.client ? { client: clientIdentity(tls.client, read) } : {})
		};
	}
	transport.key = keyOf(transport);
	return transport;
}
