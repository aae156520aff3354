import { escapeAddress } from '../values/index.ts';
import type { Redirects, Timeouts } from '../documents/connection.ts';
import type { HeaderList, Reply } from './reply.ts';
import type { Transport } from './transport.ts';

/** Who put a header field there. */
export type HeaderOrigin = 'step' | 'connection' | 'credential' | 'cookies' | 'added';

/** A request in full: nothing is left to fill in. */
export interface PreparedRequest {
	method: string;
	url: string;
	headers: HeaderList;
	/** For each header field, in order. */
	origins: HeaderOrigin[];
	body: Uint8Array;
	timeouts: Timeouts;
	redirects: Redirects;
	/** Left out: HTTP/1.1, no proxy, the machine's authorities. */
	transport?: Transport;
	/** Cookies of replies are not kept. */
	forgetCookies?: boolean;
	/** Header fields, in small letters, that hold a secret: they stay with the origin that they were made for. */
	secretFields?: string[];
	/** The body holds a secret. */
	secretBody?: boolean;
	/** What people should know of how it was made: what was left out, and why. */
	notes?: string[];
}

/** A certificate, as far as people ask about it. */
export interface CertificateFacts {
	subject: string;
	issuer: string;
	/** Names it is for: DNS names and addresses. */
	names: string[];
	/** Milliseconds since 1970. */
	validFrom: number;
	validTo: number;
	/** SHA-256, in colon form. */
	fingerprint: string;
	serial: string;
	selfSigned: boolean;
	/** It says where the certificate of its issuer is to be had. */
	issuerAt?: true;
	/** The certificate itself, PEM. */
	pem?: string;
}

/** What was agreed on for a secure connection. */
export interface TlsFacts {
	version: string;
	cipher: string;
	alpn: string;
	/** Why the certificate would not be trusted; empty when it is. */
	distrust: string;
	/** The server's own certificate first. */
	chain: CertificateFacts[];
}

/** One request and its reply as they crossed the wire. */
export interface Exchange {
	method: string;
	url: string;
	requestHeaders: HeaderList;
	requestBody: Uint8Array;
	reply?: Reply;
	/** What kept the reply from coming. */
	error?: { code: string; message: string; phase?: string };
	/** Milliseconds since 1970. */
	startedAt: number;
	/** What it was for, when it is not the step's own call: `token request`. */
	leg?: string;
	/** It came to a stand-in: its request is what is looked at. */
	came?: true;
	/** What people should know: credentials that were dropped, oddities that were forgiven. */
	notes?: string[];
	tls?: TlsFacts;
	/** The address that answered, and the proxy it went through. */
	peer?: string;
	proxy?: string;
}

/** A copy with a header field set: replaced where it is, else put in behind the last of the same origin. */
export function withHeader(
	request: PreparedRequest,
	name: string,
	value: string,
	origin: HeaderOrigin = 'credential'
): PreparedRequest {
	const headers = [...request.headers];
	const origins = [...request.origins];
	const at = headers.findIndex(([n]) => n.toLowerCase() === name.toLowerCase());
	if (at >= 0) {
		headers[at] = [headers[at]![0], value];
		origins[at] = origin;
	} else {
		// before what is added by itself, so that Connection stays last
		const first = origins.findIndex((o, i) => i > 0 && o === 'added');
		const place = first < 0 ? headers.length : first;
		headers.splice(place, 0, [name, value]);
		origins.splice(place, 0, origin);
	}
	return { ...request, headers, origins };
}

/** A copy with a parameter appended to the query; name and value are given unencoded. */
export function withQuery(request: PreparedRequest, name: string, value: string): PreparedRequest {
	const [plain = '', fragment] = request.url.split('#');
	const mark = plain.includes('?') ? (/[?&]$/.test(plain) ? '' : '&') : '?';
	const url = `${plain}${mark}${escapeAddress(name)}=${escapeAddress(value)}${fragment === undefined ? '' : `#${fragment}`}`;
	return { ...request, url };
}

/** A copy with another body, whose length is said anew. */
export function withBody(request: PreparedRequest, body: Uint8Array): PreparedRequest {
	const next = { ...request, body };
	return request.headers.some(([n]) => n.toLowerCase() === 'content-length')
		? withHeader(next, 'Content-Length', String(body.length), 'added')
		: next;
}
