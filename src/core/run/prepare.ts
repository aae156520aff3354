import { bodyKind } from '../bodies/index.ts';
import { HeronError } from '../errors.ts';
import type { SendSpec } from '../model/collection.ts';
import { DEFAULT_REDIRECTS, DEFAULT_TIMEOUTS, type Connection } from '../model/connection.ts';
import type { Param } from '../model/params.ts';
import type { HeaderList } from '../model/reply.ts';
import { transportOf } from '../model/transport.ts';
import type { Shelf } from '../soap/index.ts';
import {
	createEvaluator,
	createMarks,
	escapeAddress,
	joined,
	latin1,
	latin1Bytes,
	parseTemplate,
	tidyAddress,
	utf8,
	type Evaluator,
	type FunctionPorts,
	type Marks,
	type Scope,
	type Segment
} from '../values/index.ts';
import type { HeaderOrigin, PreparedRequest, Session } from './ports.ts';

export interface PrepareTools {
	evaluator: Evaluator;
	scope: Scope;
	ports: FunctionPorts;
	shelf: Shelf;
	session: Session;
	/** What the User-Agent field says. */
	agent: string;
	/** Where to note which pieces of the request were filled in. */
	marked?: Marked | undefined;
}

/** With the evaluator that puts no marks around values. */
type Tools = PrepareTools & { unmarked: Evaluator };

/** A request in pieces: what was filled in, and what stands as it was written. */
export interface Marked {
	marks: Marks;
	/** Path and query. */
	target: Segment[];
	/** What the beginning of the address is from: indexes of `marks.sources`. */
	origin: number[];
	headers: { name: string; segments: Segment[] }[];
	/** Each character is one octet. */
	body: Segment[];
}
export const emptyMarked = (): Marked => ({ marks: createMarks(), target: [], origin: [], headers: [], body: [] });

const METHODS_WITH_BODY = new Set(['POST', 'PUT', 'PATCH']);

/**
 * Fills in everything: the request as it will be sent.
 * @throws HeronError value.* and file.missing
 */
export async function prepareRequest(
	spec: SendSpec,
	connection: Connection | undefined,
	given: PrepareTools
): Promise<PreparedRequest> {
	const { marked } = given;
	const tools: Tools = {
		...given,
		unmarked: given.evaluator,
		...(marked ? { evaluator: createEvaluator(marked.marks) } : {})
	};
	const url = await addressOf(spec, connection, tools);
	const built = await bodyOf(spec, tools, url);
	const headers: HeaderList = [];
	const origins: HeaderOrigin[] = [];
	const has = (name: string) => headers.some(([n]) => n.toLowerCase() === name.toLowerCase());
	const add = (name: string, value: string, origin: HeaderOrigin) => {
		const bare = tools.evaluator.bare(value);
		const plain = headerText(name, bare);
		headers.push([name, plain]);
		origins.push(origin);
		const octets = (one: Segment) => (isAscii(bare) ? one : { ...one, text: latin1(utf8(one.text)) });
		const segments = marked ? marked.marks.take(value.trim()).map(octets) : [];
		if (marked && joined(segments) === plain) marked.headers.push({ name, segments });
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
	for (const [name, value] of built?.headers ?? []) if (!has(name)) add(name, value, 'added');
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
		out.push([evaluator.bare(await text(name)), await text(String(value ?? ''))]);
	}
	return out;
}

/** RFC 9110 section 5.5: no control characters; what is not ASCII goes out as UTF-8 octets. */
function headerText(name: string, value: string): string {
	// eslint-disable-next-line no-control-regex
	if (/[\0-\x08\x0a-\x1f\x7f]/.test(value)) throw new HeronError('value.header', { where: 'the header', name });
	if (!/^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/.test(name))
		throw new HeronError('value.header', { where: 'the name of header', name });
	return isAscii(value) ? value.trim() : latin1(utf8(value.trim()));
}

// eslint-disable-next-line no-control-regex
const isAscii = (text: string): boolean => !/[^\x00-\x7f]/.test(text);

async function bodyOf(spec: SendSpec, { evaluator, unmarked, scope, ports, shelf, marked }: Tools, address: string) {
	if (!spec.body) return undefined;
	const kind = bodyKind(spec.body.kind);
	if (!kind) throw new HeronError('request.wrong', { detail: `unknown kind of body "${spec.body.kind}"` });
	const built = await kind.build(spec.body.value, {
		evaluator,
		scope,
		shelf,
		address,
		randomBytes: (n) => ports.randomBytes(n),
		readFile(path) {
			const bytes = ports.readFile?.(path);
			if (!bytes) throw new HeronError('file.missing', { file: path });
			return bytes;
		}
	});
	if (marked) {
		marked.body = marked.marks.takeBytes(built.bytes);
		built.bytes = latin1Bytes(joined(marked.body));
	}
	return spec.body.type === undefined ? built : { ...built, contentType: await unmarked.text(spec.body.type, scope) };
}

/** An address with what opens it (`{$env.base}/x`) written as it is, and every other value encoded. */
async function fillAddress(text: string, { evaluator, unmarked, scope, marked }: Tools): Promise<string> {
	const [first, ...rest] = parseTemplate(text);
	if (!first || 'text' in first) return evaluator.text(text, scope, escapeAddress);
	let opening = await unmarked.text(`{${first.source}}`, scope);
	const origin = /^[a-z][a-z0-9+.-]*:\/\/[^/?#]*/i.exec(opening)?.[0];
	if (marked && !origin) opening = marked.marks.mark(first.source, opening);
	if (marked && origin) {
		// neither the beginning of an address nor its authority can hold a mark
		const after = evaluator
			.bare(opening)
			.slice(origin.length)
			.replace(/\/+$/, rest.length > 0 ? '$&' : '');
		marked.origin.push(marked.marks.sources.push(first.source) - 1);
		const below = after.slice(1);
		opening = origin + after.slice(0, 1) + (below ? marked.marks.mark(first.source, below) : '');
	}
	const tail = rest.length > 0 ? await evaluator.text(text.slice(first.end), scope, escapeAddress) : '';
	return opening + tail;
}

async function addressOf(spec: SendSpec, connection: Connection | undefined, tools: Tools): Promise<string> {
	let target = await fillAddress(spec.target, tools);
	const values = new Map<string, string>();
	for (const { name, value, off } of spec.path) {
		if (!off)
			values.set(name, await tools.evaluator.text(String(value ?? ''), tools.scope, escapeAddress, escapeAddress));
	}
	target = target.replace(/\{([^{}]+)\}/g, (_, name: string) => {
		const value = values.get(name);
		if (value === undefined || tools.evaluator.bare(value) === '') throw new HeronError('value.path', { name });
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
	const whole = query ? plain + (plain.includes('?') ? (/[?&]$/.test(plain) ? '' : '&') : '?') + query : plain;
	const tidy = tidyAddress(tools.evaluator.bare(whole));
	if (!URL.canParse(tidy))
		throw new HeronError('value.address', { address: tools.evaluator.bare(whole) || spec.target });
	const { protocol, href, pathname, search } = new URL(tidy);
	if (protocol !== 'http:' && protocol !== 'https:') throw new HeronError('send.protocol', { protocol });
	if (tools.marked) tools.marked.target = piecesOf(whole, pathname + search, tools.marked.marks);
	return href;
}

/** The pieces of path and query; one piece when marks got in the way of reading the address. */
function piecesOf(whole: string, target: string, marks: Marks): Segment[] {
	const tidy = tidyAddress(whole);
	const { pathname, search } = URL.canParse(tidy) ? new URL(tidy) : { pathname: '', search: '' };
	const pieces = marks.take(pathname + search);
	return joined(pieces) === target ? pieces : [{ text: target }];
}
