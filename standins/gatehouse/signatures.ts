import { createHash, createHmac, timingSafeEqual } from 'node:crypto';

// What the gatehouse checks, written from the standards' text and apart from the workbench's own code.

const hash = (algorithm: string, text: string | Buffer) => createHash(algorithm).update(text).digest('hex');
export const same = (a: string, b: string): boolean =>
	a.length === b.length && timingSafeEqual(Buffer.from(a), Buffer.from(b));

/** The parameters behind the scheme of an Authorization field. */
export function parametersOf(header: string, scheme: string): Record<string, string> | undefined {
	if (!header.toLowerCase().startsWith(`${scheme.toLowerCase()} `)) return undefined;
	const found: Record<string, string> = {};
	for (const [, name, quoted, bare] of header
		.slice(scheme.length)
		.matchAll(/([\w*-]+)\s*=\s*(?:"((?:[^"\\]|\\.)*)"|([^\s,]+))/g))
		found[name!.toLowerCase()] = quoted?.replace(/\\(.)/g, '$1') ?? bare ?? '';
	return found;
}

/** RFC 7616 section 3.4: what the response of a request must be. */
export function digestResponse(
	p: Record<string, string>,
	password: string,
	method: string,
	body: Buffer
): string | undefined {
	const algorithm = (p.algorithm ?? 'MD5').toUpperCase();
	const name = { MD5: 'md5', 'SHA-256': 'sha256' }[algorithm.replace('-SESS', '')];
	if (!name) return undefined;
	let a1 = hash(name, `${p.username}:${p.realm}:${password}`);
	if (algorithm.endsWith('-SESS')) a1 = hash(name, `${a1}:${p.nonce}:${p.cnonce}`);
	const a2 = hash(name, `${method}:${p.uri}${p.qop === 'auth-int' ? `:${hash(name, body)}` : ''}`);
	return hash(name, p.qop ? `${a1}:${p.nonce}:${p.nc}:${p.cnonce}:${p.qop}:${a2}` : `${a1}:${p.nonce}:${a2}`);
}

const escape = (text: string) =>
	encodeURIComponent(text).replace(/[!'()*]/g, (c) => `%${c.charCodeAt(0).toString(16).toUpperCase()}`);

/** RFC 5849 section 3.4: the HMAC signature that a request must bear. */
export function oauth1Signature(
	p: Record<string, string>,
	method: string,
	address: string,
	secrets: { client: string; token: string }
): string {
	const url = new URL(address);
	const pairs = [
		...url.searchParams,
		...Object.entries(p)
			.filter(([name]) => name !== 'realm' && name !== 'oauth_signature')
			.map(([name, value]): [string, string] => [name, decodeURIComponent(value)])
	]
		.map(([name, value]) => `${escape(name)}=${escape(value)}`)
		.sort();
	const base = [method, url.origin + url.pathname, pairs.join('&')].map(escape).join('&');
	const algorithm = p.oauth_signature_method === 'HMAC-SHA256' ? 'sha256' : 'sha1';
	return createHmac(algorithm, `${escape(secrets.client)}&${escape(secrets.token)}`)
		.update(base)
		.digest('base64');
}

/** RFC 9421 section 2.5 for the components that the gatehouse knows, with a shared secret. */
export function messageSignature(
	input: string,
	request: { method: string; url: string; headers: Record<string, string | string[] | undefined> },
	secret: string
): string | undefined {
	const parameters = input.slice(input.indexOf('=') + 1);
	const names = [
		...(/"([^"]+)"/.exec(parameters) ? (/^\(([^)]*)\)/.exec(parameters)?.[1]?.matchAll(/"([^"]+)"/g) ?? []) : [])
	];
	const url = new URL(request.url);
	const parts: Record<string, string> = {
		'@method': request.method,
		'@target-uri': request.url,
		'@authority': url.host,
		'@path': url.pathname,
		'@query': url.search || '?',
		'@scheme': url.protocol.replace(':', '')
	};
	const lines = names.map(([, name]) => `"${name}": ${parts[name!] ?? String(request.headers[name!] ?? '').trim()}`);
	if (lines.length === 0) return undefined;
	return createHmac('sha256', secret)
		.update([...lines, `"@signature-params": ${parameters}`].join('\n'))
		.digest('base64');
}

/** The token of the signed endpoint: time, method, path, canonical query and the body's digest, joined by line feeds. */
export function gateToken(time: string, method: string, url: URL, body: Buffer, secret: string): string {
	const query = [...url.searchParams]
		.map(([name, value]) => `${escape(name)}=${escape(value)}`)
		.sort()
		.join('&');
	return createHmac('sha256', secret)
		.update([time, method, url.pathname, query, hash('sha256', body)].join('\n'))
		.digest('hex');
}
