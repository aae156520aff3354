import { bodyKind } from '../bodies/index.ts';
import { HeronError } from '../errors.ts';
import type { SendSpec } from '../model/collection.ts';
import { DEFAULT_REDIRECTS, DEFAULT_TIMEOUTS, type Connection } from '../model/connection.ts';
import type { Json } from '../model/json.ts';
import type { Param } from '../model/params.ts';
import type { HeaderList } from '../model/reply.ts';
import { strangersTransport, transportOf } from '../model/transport.ts';
import type { WsdlRegistry } from '../soap/index.ts';
import {
	bytesToBase64,
	createEvaluator,
	createMarks,
	escapeAddress,
	joined,
	latin1,
	latin1Bytes,
	parseTemplate,
	referencesIn,
	tidyAddress,
	utf8,
	type Evaluator,
	type FunctionPorts,
	type Marks,
	type Scope,
	type Segment,
	unescapeAddress
} from '../values/index.ts';
import type { HeaderOrigin, PreparedRequest, Session } from './ports.ts';
import { expandUri, uriExpression } from '../model/uri-template.ts';

/** What a request is put together with. */
export interface PrepareTools {
	evaluator: Evaluator;
	scope: Scope;
	ports: FunctionPorts;
	wsdls: WsdlRegistry;
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
/** Marks of a request in which nothing was filled in. */
export const emptyMarked = (): Marked => ({ marks: createMarks(), target: [], origin: [], headers: [], body: [] });

/** Methods that anticipate no content (RFC 9110 section 8.6); of any other an empty one is told. */
const WITHOUT_CONTENT = new Set(['GET', 'HEAD', 'DELETE', 'OPTIONS', 'TRACE', 'CONNECT']);

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
	const { url, userinfo, base } = await addressOf(spec, connection, tools);
	const { hider } = tools.scope;
	const isSecret = (value: string) => hider !== undefined && hider.text(value) !== value;
	const notes: string[] = [];
	const home = base !== '' && new URL(url).origin === base;
	// a whole address that a reply, a row or a step gave may be anybody's; one that is written in the project is meant
	const elsewhere = !home && !connection?.redirects.keepCredentials;
	const strange = elsewhere && isWhole(spec.target) && !isWritten(spec.target);
	const secretFields: string[] = [];
	const built = await bodyOf(spec, tools, url);
	const headers: HeaderList = [];
	const origins: HeaderOrigin[] = [];
	const has = (name: string) => headers.some(([n]) => n.toLowerCase() === name.toLowerCase());
	/** @param written the value is octets already */
	const add = (name: string, value: string, origin: HeaderOrigin, written = false) => {
		const bare = tools.evaluator.bare(value);
		const plain = headerText(name, bare, written);
		headers.push([name, plain]);
		origins.push(origin);
		const octets = (one: Segment) => (written || isAscii(bare) ? one : { ...one, text: latin1(utf8(one.text)) });
		const segments = marked ? marked.marks.take(value.trim()).map(octets) : [];
		if (marked && joined(segments) === plain) marked.headers.push({ name, segments });
	};
	const own = await resolveParams(spec.headers, tools);
	const ownNames = new Set(own.map(([name]) => name.toLowerCase()));
	if (!ownNames.has('host')) add('Host', new URL(url).host, 'added');
	const left: string[] = [];
	const addField = (name: string, value: string, origin: HeaderOrigin, stays: boolean) => {
		if (isSecret(tools.evaluator.bare(value))) {
			if (stays) return void left.push(name);
			secretFields.push(name.toLowerCase());
		}
		add(name, value, origin);
	};
	for (const [name, value] of await resolveParams(connection?.headers ?? [], tools)) {
		if (!ownNames.has(name.toLowerCase())) addField(name, value, 'connection', elsewhere);
	}
	for (const [name, value] of own) addField(name, value, 'step', strange);
	if (left.length > 0)
		notes.push(`another host than the connection’s: ${left.join(', ')} was left out, because it holds a secret`);
	if (userinfo && !has('authorization')) {
		const proof = bytesToBase64(utf8(userinfo.user + ':' + userinfo.password));
		hider?.learn?.('address.password', userinfo.password);
		hider?.learn?.('address.basic', proof);
		secretFields.push('authorization');
		add('Authorization', `Basic ${proof}`, 'credential');
		notes.push('user and password of the address are sent as Basic (RFC 7617): a credential keeps them out of files');
	} else if (userinfo) hider?.learn?.('address.password', userinfo.password);
	const octets = (text: string) => (isAscii(text) ? text : latin1(utf8(text)));
	const cookies = (await resolveParams(spec.cookies, tools)).map(([name, value]) => octets(`${name}=${value}`));
	if (!has('cookie')) {
		const kept = connection?.cookies === false ? '' : tools.session.cookiesFor(url);
		if (cookies.length > 0 || kept)
			// what a server set came as octets, and goes back as it came
			add('Cookie', [kept, ...cookies].filter(Boolean).join('; '), cookies.length > 0 ? 'step' : 'cookies', true);
	}
	if (!has('user-agent')) add('User-Agent', tools.agent, 'added');
	if (!has('accept')) add('Accept', '*/*', 'added');
	if (!has('accept-encoding')) add('Accept-Encoding', 'gzip, deflate, br, zstd', 'added');
	if (built && !has('content-type')) add('Content-Type', built.contentType, 'added');
	for (const [name, value] of built?.headers ?? []) if (!has(name)) add(name, value, 'added');
	const body = built?.bytes ?? new Uint8Array();
	const sized = has('content-length') || has('transfer-encoding');
	if (!sized && (built || !WITHOUT_CONTENT.has(spec.method))) add('Content-Length', String(body.length), 'added');
	if (!has('connection')) add('Connection', 'keep-alive', 'added');
	const usual = connection && transportOf(connection, new URL(url).hostname, (path) => tools.ports.readFile?.(path));
	const bare = usual?.tls.client !== undefined && elsewhere;
	const transport = bare ? strangersTransport(usual) : usual;
	if (bare) notes.push('another host than the connection’s: the client certificate was not shown');
	const secretBody = hider !== undefined && body.length > 0 && isSecret(latin1(body.subarray(0, LOOKED)));
	return {
		method: spec.method,
		url,
		headers,
		origins,
		body,
		timeouts: connection?.timeouts ?? DEFAULT_TIMEOUTS,
		redirects: connection?.redirects ?? DEFAULT_REDIRECTS,
		...(transport ? { transport } : {}),
		...(connection?.cookies === false ? { forgetCookies: true } : {}),
		...(secretFields.length > 0 ? { secretFields } : {}),
		...(secretBody ? { secretBody } : {}),
		...(notes.length > 0 ? { notes } : {})
	};
}

/** As far as a body is looked through for secrets, in octets. */
const LOOKED = 1_000_000;
/** Whether a target is an address by itself, or becomes one: it opens with a scheme, or with a value. */
const isWhole = (target: string): boolean => /^(https?:\/\/|\{\$)/i.test(target);
/** Names that the project itself gives. */
const WRITTEN = new Set(['env', 'secret', 'run']);
/** Whether the host of an address is written in the project: nothing that came from outside decides on it. */
function isWritten(target: string): boolean {
	const authority = /^(?:https?:\/\/)?(?:\{\$[^}]*\}|[^/?#{])*/i.exec(target)?.[0] ?? '';
	return referencesIn(authority).every(({ root }) => WRITTEN.has(root)) && !/\$(request|response)\b/.test(authority);
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
function headerText(name: string, value: string, written = false): string {
	// eslint-disable-next-line no-control-regex
	if (/[\0-\x08\x0a-\x1f\x7f]/.test(value)) throw new HeronError('value.header', { where: 'the header', name });
	if (!/^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/.test(name))
		throw new HeronError('value.header', { where: 'the name of header', name });
	return written || isAscii(value) ? value.trim() : latin1(utf8(value.trim()));
}

// eslint-disable-next-line no-control-regex
const isAscii = (text: string): boolean => !/[^\x00-\x7f]/.test(text);

async function bodyOf(spec: SendSpec, { evaluator, unmarked, scope, ports, wsdls, marked }: Tools, address: string) {
	if (!spec.body) return undefined;
	const kind = bodyKind(spec.body.kind);
	if (!kind) throw new HeronError('body.kind', { kind: spec.body.kind });
	const built = await kind.build(spec.body.value, {
		evaluator,
		scope,
		wsdls,
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

interface Address {
	url: string;
	/** What stood before the host; it is taken off. */
	userinfo?: { user: string; password: string };
	/** The origin of the connection; empty when there is none. */
	base: string;
}

async function addressOf(spec: SendSpec, connection: Connection | undefined, tools: Tools): Promise<Address> {
	let target = await fillAddress(spec.target, tools);
	// what takes lists and objects, or brings its own separators, is filled in by its own rules
	const wide = [...target.matchAll(/\{([^{}]+)\}/g)].flatMap(([, text = '']) => uriExpression(text) ?? []);
	const typed = new Map<string, Json>();
	const wanted = new Set(wide.flatMap(({ names }) => names));
	for (const { name, value, off } of wanted.size > 0 ? spec.path : [])
		if (!off && wanted.has(name)) typed.set(name, await tools.unmarked.deep(value ?? null, tools.scope));
	for (const name of wanted)
		if (!spec.path.some((one) => one.name === name)) throw new HeronError('value.path', { name });
	const values = new Map<string, string>();
	for (const { name, value, off } of spec.path) {
		if (!off && !wanted.has(name))
			values.set(name, await tools.evaluator.text(String(value ?? ''), tools.scope, escapeAddress, escapeAddress));
	}
	for (const expression of wide) target = target.replace(`{${expression.text}}`, () => expandUri(expression, typed));
	target = target.replace(/\{([^{}]+)\}/g, (_, name: string) => {
		const value = values.get(name);
		if (value === undefined && /^[^\w$]|[*:,|]/.test(name))
			throw new HeronError('value.template', { text: `{${name}}` });
		if (value === undefined || tools.evaluator.bare(value) === '') throw new HeronError('value.path', { name });
		// WHATWG URL section 4.4: however it is encoded, it leads to another path
		if (/^(\.|%2e){1,2}$/i.test(tools.evaluator.bare(value)))
			throw new HeronError('value.dots', { name, value: tools.evaluator.bare(value) });
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
	// RFC 3986 section 3.2.3 lets it be empty, and then 80 or 443 would be meant: mostly a value is missing
	if (/^[a-z][a-z0-9+.-]*:\/\/[^/?#]*:(?=[/?#]|$)/i.test(tidy)) throw new HeronError('value.port', { address: tidy });
	const url = new URL(tidy);
	const { protocol, pathname, search, username, password } = url;
	if (protocol !== 'http:' && protocol !== 'https:') throw new HeronError('send.protocol', { protocol });
	if (tools.marked) tools.marked.target = piecesOf(whole, pathname + search, tools.marked.marks);
	url.username = url.password = '';
	return {
		url: url.href,
		base: connection ? await originOf(connection.base, tools) : '',
		...(username || password
			? { userinfo: { user: unescapeAddress(username), password: unescapeAddress(password) } }
			: {})
	};
}

/** The origin of a connection's base; empty when it is none. */
async function originOf(text: string, { unmarked, scope }: Tools): Promise<string> {
	const plain = await fillOpening(text, unmarked, scope).catch(() => '');
	return URL.canParse(plain) ? new URL(plain).origin : '';
}
/** What opens an address is written as it is. */
async function fillOpening(text: string, evaluator: Evaluator, scope: Scope): Promise<string> {
	const [first] = parseTemplate(text);
	if (!first || 'text' in first) return evaluator.text(text, scope, escapeAddress);
	return evaluator.text(`{${first.source}}`, scope);
}

/** The pieces of path and query; one piece when marks got in the way of reading the address. */
function piecesOf(whole: string, target: string, marks: Marks): Segment[] {
	const tidy = tidyAddress(whole);
	const { pathname, search } = URL.canParse(tidy) ? new URL(tidy) : { pathname: '', search: '' };
	const pieces = marks.take(pathname + search);
	return joined(pieces) === target ? pieces : [{ text: target }];
}
