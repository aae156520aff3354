import { bodyKind } from '../bodies/index.ts';
import { HeronError } from '../errors.ts';
import type { SendSpec } from '../model/collection.ts';
import { DEFAULT_REDIRECTS, DEFAULT_TIMEOUTS, type Connection } from '../model/connection.ts';
import type { Param } from '../model/params.ts';
import type { HeaderList } from '../model/reply.ts';
import { transportOf } from '../model/transport.ts';
import {
	escapeAddress,
	parseTemplate,
	tidyAddress,
	utf8,
	type Evaluator,
	type FunctionPorts,
	type Scope
} from '../values/index.ts';
import type { HeaderOrigin, PreparedRequest, Session } from './ports.ts';

export interface PrepareTools {
	evaluator: Evaluator;
	scope: Scope;
	ports: FunctionPorts;
	session: Session;
	/** What the User-Agent field says. */
	agent: string;
}

const METHODS_WITH_BODY = new Set(['POST', 'PUT', 'PATCH']);

/**
 * Fills in everything: the request as it will be sent.
 * @throws HeronError value.* and file.missing
 */
export async function prepareRequest(
	spec: SendSpec,
	connection: Connection | undefined,
	tools: PrepareTools
): Promise<PreparedRequest> {
	const url = await addressOf(spec, connection, tools);
	const built = await bodyOf(spec, tools);
	const headers: HeaderList = [];
	const origins: HeaderOrigin[] = [];
	const has = (name: string) => headers.some(([n]) => n.toLowerCase() === name.toLowerCase());
	const add = (name: string, value: string, origin: HeaderOrigin) => {
		headers.push([name, headerText(name, value)]);
		origins.push(origin);
	};
	const own = await resolveParams(spec.headers, tools);
	const ownNames = new Set(own.map(([name]) => name.toLowerCase()));
	if (!ownNames.has('host')) add('Host', new URL(url).host, 'added');
	for (const [name, value] of await resolveParams(connection?.headers ?? [], tools)) {
		if (!ownNames.has(name.toLowerCase())) add(name, value, 'connection');
	}
	for (const [name, value] of own) add(name, value, 'step');
	const cookies = (await resolveParams(spec.cookies, tools)).map(([name, value]) => `${name}=${value}`);
	if (!has('cookie')) {
		const kept = connection?.cookies === false ? '' : tools.session.cookiesFor(url);
		if (cookies.length > 0 || kept)
			add('Cookie', [kept, ...cookies].filter(Boolean).join('; '), cookies.length > 0 ? 'step' : 'cookies');
	}
	if (!has('user-agent')) add('User-Agent', tools.agent, 'added');
	if (!has('accept')) add('Accept', '*/*', 'added');
	if (!has('accept-encoding')) add('Accept-Encoding', 'gzip, deflate, br, zstd', 'added');
	if (built && !has('content-type')) add('Content-Type', built.contentType, 'added');
	const body = built?.bytes ?? new Uint8Array();
	const sized = has('content-length') || has('transfer-encoding');
	if (!sized && (built || METHODS_WITH_BODY.has(spec.method))) add('Content-Length', String(body.length), 'added');
	if (!has('connection')) add('Connection', 'keep-alive', 'added');
	const transport =
		connection && transportOf(connection, new URL(url).hostname, (path) => tools.ports.readFile?.(path));
	return {
		method: spec.method,
		url,
		headers,
		origins,
		body,
		timeouts: connection?.timeouts ?? DEFAULT_TIMEOUTS,
		redirects: connection?.redirects ?? DEFAULT_REDIRECTS,
		...(transport ? { transport } : {}),
		...(connection?.cookies === false ? { forgetCookies: true } : {})
	};
}

async function resolveParams(
	params: Param[],
	{ evaluator, scope }: PrepareTools,
	escape?: (text: string) => string
): Promise<[string, string][]> {
	const out: [string, string][] = [];
	for (const { name, value, off } of params) {
		if (off) continue;
		const text = (from: string) => evaluator.text(from, scope, escape, escape);
		out.push([await text(name), await text(String(value ?? ''))]);
	}
	return out;
}

/** RFC 9110 section 5.5: no control characters; what is not ASCII goes out as UTF-8 octets. */
function headerText(name: string, value: string): string {
	// eslint-disable-next-line no-control-regex
	if (/[\0-\x08\x0a-\x1f\x7f]/.test(value)) throw new HeronError('value.header', { where: 'the header', name });
	if (!/^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/.test(name))
		throw new HeronError('value.header', { where: 'the name of header', name });
	// eslint-disable-next-line no-control-regex
	return /[^\x00-\x7f]/.test(value) ? Array.from(utf8(value), (b) => String.fromCharCode(b)).join('') : value.trim();
}

async function bodyOf(spec: SendSpec, { evaluator, scope, ports }: PrepareTools) {
	if (!spec.body) return undefined;
	const kind = bodyKind(spec.body.kind);
	if (!kind) throw new HeronError('request.wrong', { detail: `unknown kind of body "${spec.body.kind}"` });
	const built = await kind.build(spec.body.value, {
		evaluator,
		scope,
		randomBytes: (n) => ports.randomBytes(n),
		readFile(path) {
			const bytes = ports.readFile?.(path);
			if (!bytes) throw new HeronError('file.missing', { file: path });
			return bytes;
		}
	});
	return spec.body.type === undefined ? built : { ...built, contentType: await evaluator.text(spec.body.type, scope) };
}

/** An address with what opens it (`{$env.base}/x`) written as it is, and every other value encoded. */
async function fillAddress(text: string, { evaluator, scope }: PrepareTools): Promise<string> {
	const [first, ...rest] = parseTemplate(text);
	if (!first || 'text' in first) return evaluator.text(text, scope, escapeAddress);
	const opening = await evaluator.text(`{${first.source}}`, scope);
	const tail = rest.length > 0 ? await evaluator.text(text.slice(first.end), scope, escapeAddress) : '';
	return opening + tail;
}

async function addressOf(spec: SendSpec, connection: Connection | undefined, tools: PrepareTools): Promise<string> {
	let target = await fillAddress(spec.target, tools);
	const values = new Map<string, string>();
	for (const { name, value, off } of spec.path) {
		if (!off)
			values.set(name, await tools.evaluator.text(String(value ?? ''), tools.scope, escapeAddress, escapeAddress));
	}
	target = target.replace(/\{([^{}]+)\}/g, (_, name: string) => {
		const value = values.get(name);
		if (value === undefined || value === '') throw new HeronError('value.path', { name });
		return value;
	});
	let address = target;
	if (!/^[a-z][a-z0-9+.-]*:\/\//i.test(target)) {
		const base = connection ? await fillAddress(connection.base, tools) : '';
		address = `${base.trim().replace(/\/+$/, '')}/${target.replace(/^\/+/, '')}`;
	}
	const [plain = ''] = address.split('#');
	const own = await resolveParams(spec.query, tools, escapeAddress);
	const usual =
		connection?.query.length && !/^[a-z][a-z0-9+.-]*:\/\//i.test(spec.target)
			? await resolveParams(connection.query, tools, escapeAddress)
			: [];
	const query = [...usual.filter(([name]) => !own.some(([n]) => n === name)), ...own]
		.map(([n, v]) => `${n}=${v}`)
		.join('&');
	const joined = query ? plain + (plain.includes('?') ? (/[?&]$/.test(plain) ? '' : '&') : '?') + query : plain;
	const tidy = tidyAddress(joined);
	if (!URL.canParse(tidy)) throw new HeronError('value.address', { address: joined || spec.target });
	const { protocol, href } = new URL(tidy);
	if (protocol !== 'http:' && protocol !== 'https:') throw new HeronError('send.protocol', { protocol });
	return href;
}
