import { bodyKind, type BuiltBody } from '../bodies/index.ts';
import { HeronError } from '../errors.ts';
import type { SendSpec } from '../model/step.ts';
import { DEFAULT_REDIRECTS, DEFAULT_TIMEOUTS, type Connection } from '../documents/connection.ts';
import type { Json } from '../model/json.ts';
import { memoizeByText } from '../model/kept.ts';
import type { Param } from '../model/params.ts';
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
	type Part,
	type Scope,
	type Segment,
	unescapeAddress
} from '../values/index.ts';
import { Fields, octetsOf } from './fields.ts';
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
	const { marked, scope, ports } = given;
	const tools: Tools = { ...given, unmarked: given.evaluator };
	if (marked) tools.evaluator = createEvaluator(marked.marks);
	const { hider } = scope;
	const { url: address, userinfo, base } = await addressOf(spec, connection, tools);
	const url = address.href;
	const home = base !== '' && address.origin === base;
	// a whole address that a reply, a row or a step gave may be anybody's; one that is written in the project is meant
	const redirects = connection?.redirects ?? DEFAULT_REDIRECTS;
	const elsewhere = !home && !redirects.keepCredentials;
	const built = spec.body ? await bodyOf(spec, tools, url) : undefined;
	const fields = new Fields(tools.evaluator, marked?.marks);
	const { secretFields, notes } = await addGiven(fields, spec, connection, { host: address.host, elsewhere, tools });
	if (userinfo) addProof(fields, userinfo, { hider, secretFields, notes });
	await addCookies(fields, spec, connection, url, tools);
	const body = built?.bytes ?? new Uint8Array();
	addUsual(fields, spec.method, built, tools.agent);
	if (marked) marked.headers.push(...fields.pieces);
	const usual = connection && transportOf(connection, address.hostname, (path) => ports.readFile?.(path));
	const bare = usual?.tls.client !== undefined && elsewhere;
	const transport = bare ? strangersTransport(usual) : usual;
	if (bare) notes.push('another host than the connection’s: the client certificate was not shown');
	const request: PreparedRequest = {
		method: spec.method,
		url,
		headers: fields.list,
		origins: fields.origins,
		body,
		timeouts: connection?.timeouts ?? DEFAULT_TIMEOUTS,
		redirects: spec.redirects === undefined ? redirects : { ...redirects, follow: spec.redirects }
	};
	if (transport) request.transport = transport;
	if (connection?.cookies === false) request.forgetCookies = true;
	if (secretFields.length > 0) request.secretFields = secretFields;
	if (body.length > 0 && isSecret(latin1(body.subarray(0, LOOKED)), hider)) request.secretBody = true;
	if (notes.length > 0) request.notes = notes;
	return request;
}

const isSecret = (value: string, hider: Scope['hider']): boolean => hider !== undefined && hider.text(value) !== value;

/** What a request is told of besides its fields. */
interface Remarks {
	/** Fields that hold a secret, in small letters. */
	secretFields: string[];
	notes: string[];
}

/** Adds the fields of the connection and of the step; those that hold a secret stay with the connection's host. */
async function addGiven(
	fields: Fields,
	spec: SendSpec,
	connection: Connection | undefined,
	{ host, elsewhere, tools }: { host: string; elsewhere: boolean; tools: Tools }
): Promise<Remarks> {
	const strange = elsewhere && isWhole(spec.target) && !isWritten(spec.target);
	const own = await resolveParams(spec.headers, tools);
	const ownNames = new Set(own.map(([name]) => name.toLowerCase()));
	if (!ownNames.has('host')) fields.add('Host', host, 'added');
	const secretFields: string[] = [];
	const left: string[] = [];
	const add = (name: string, value: string, origin: HeaderOrigin, stays: boolean) => {
		if (isSecret(tools.evaluator.bare(value), tools.scope.hider)) {
			if (stays) return void left.push(name);
			secretFields.push(name.toLowerCase());
		}
		fields.add(name, value, origin);
	};
	for (const [name, value] of await resolveParams(connection?.headers ?? [], tools))
		if (!ownNames.has(name.toLowerCase())) add(name, value, 'connection', elsewhere);
	for (const [name, value] of own) add(name, value, 'step', strange);
	const note = `another host than the connection’s: ${left.join(', ')} was left out, because it holds a secret`;
	return { secretFields, notes: left.length > 0 ? [note] : [] };
}

/** Sends what stood before the host as Basic (RFC 7617), unless something else says who we are. */
function addProof(
	fields: Fields,
	{ user, password }: { user: string; password: string },
	{ hider, secretFields, notes }: Remarks & Pick<Scope, 'hider'>
): void {
	hider?.learn?.('address.password', password);
	if (fields.has('authorization')) return;
	const proof = bytesToBase64(utf8(`${user}:${password}`));
	hider?.learn?.('address.basic', proof);
	secretFields.push('authorization');
	fields.add('Authorization', `Basic ${proof}`, 'credential');
	notes.push('user and password of the address are sent as Basic (RFC 7617): a credential keeps them out of files');
}

/** The cookies of the step, after those that servers have set. */
async function addCookies(
	fields: Fields,
	spec: SendSpec,
	connection: Connection | undefined,
	url: string,
	tools: Tools
): Promise<void> {
	const own = (await resolveParams(spec.cookies, tools)).map(([name, value]) => octetsOf(`${name}=${value}`));
	if (fields.has('cookie')) return;
	const kept = connection?.cookies === false ? '' : tools.session.cookiesFor(url);
	if (own.length === 0 && !kept) return;
	// what a server set came as octets, and goes back as it came
	fields.add('Cookie', [kept, ...own].filter(Boolean).join('; '), own.length > 0 ? 'step' : 'cookies', true);
}

/** The fields that are sent unless something else was said. */
function addUsual(fields: Fields, method: string, built: BuiltBody | undefined, agent: string): void {
	const usual = (name: string, value: string) => {
		if (!fields.has(name.toLowerCase())) fields.add(name, value, 'added');
	};
	usual('User-Agent', agent);
	usual('Accept', '*/*');
	usual('Accept-Encoding', 'gzip, deflate, br, zstd');
	if (built) usual('Content-Type', built.contentType);
	for (const [name, value] of built?.headers ?? []) usual(name, value);
	const sized = fields.has('content-length') || fields.has('transfer-encoding');
	if (!sized && (built || !WITHOUT_CONTENT.has(method)))
		fields.add('Content-Length', String(built?.bytes.length ?? 0), 'added');
	usual('Connection', 'keep-alive');
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

type Pairs = [string, string][];
function resolveParams(
	params: Param[],
	tools: PrepareTools,
	escape?: (text: string) => string
): Pairs | Promise<Pairs> {
	if (params.length === 0) return [];
	return resolveAll(params, tools, escape);
}
async function resolveAll(
	params: Param[],
	{ evaluator, scope }: PrepareTools,
	escape: ((text: string) => string) | undefined
): Promise<Pairs> {
	const out: Pairs = [];
	for (const { name, value, off } of params) {
		if (off) continue;
		const text = (from: string) => evaluator.text(from, scope, escape, escape);
		out.push([evaluator.bare(await text(name)), await text(String(value ?? ''))]);
	}
	return out;
}

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
function fillAddress(text: string, tools: Tools): string | Promise<string> {
	const [first] = parseTemplate(text);
	if (!first || 'text' in first) return tools.evaluator.text(text, tools.scope, escapeAddress);
	return fillOpened(text, tools);
}
async function fillOpened(text: string, { evaluator, unmarked, scope, marked }: Tools): Promise<string> {
	const [first, ...rest] = parseTemplate(text) as [Exclude<Part, { text: string }>, ...Part[]];
	let opening = await unmarked.text(`{${first.source}}`, scope);
	const origin = /^[a-z][a-z0-9+.-]*:\/\/[^/?#]*/i.exec(opening)?.[0];
	if (marked && !origin) {
		// slashes that join it with the base stay before the mark
		const [slashes = ''] = /^\/*/.exec(opening) ?? [];
		opening = slashes + marked.marks.mark(first.source, opening.slice(slashes.length));
	}
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
	url: URL;
	/** What stood before the host; it is taken off. */
	userinfo?: { user: string; password: string };
	/** The origin of the connection; empty when there is none. */
	base: string;
}

/** With a scheme and an authority: an address by itself. */
const ABSOLUTE = /^[a-z][a-z0-9+.-]*:\/\//i;

async function addressOf(spec: SendSpec, connection: Connection | undefined, tools: Tools): Promise<Address> {
	const opened = await fillAddress(spec.target, tools);
	const target = spec.path.length > 0 || opened.includes('{') ? await fillPath(opened, spec.path, tools) : opened;
	let address = target;
	if (!ABSOLUTE.test(target)) {
		const base = connection ? await fillAddress(connection.base, tools) : '';
		address = `${base.trim().replace(/\/+$/, '')}/${target.replace(/^\/+/, '')}`;
	}
	const [plain = ''] = address.split('#');
	const query = await queryOf(spec, connection, tools);
	const whole = query ? plain + (plain.includes('?') ? (/[?&]$/.test(plain) ? '' : '&') : '?') + query : plain;
	const tidy = tidyAddress(tools.evaluator.bare(whole));
	const url = readUrl(tidy);
	if (!url) {
		const nowhere = !connection?.base && !ABSOLUTE.test(target);
		const wrong = tools.evaluator.bare(whole) || spec.target;
		throw new HeronError(nowhere ? 'value.connection' : 'value.address', { address: wrong });
	}
	// RFC 3986 section 3.2.3 lets it be empty, and then 80 or 443 would be meant: mostly a value is missing
	if (/^[a-z][a-z0-9+.-]*:\/\/[^/?#]*:(?=[/?#]|$)/i.test(tidy)) throw new HeronError('value.port', { address: tidy });
	const { protocol, username, password } = url;
	if (protocol !== 'http:' && protocol !== 'https:') throw new HeronError('send.protocol', { protocol });
	if (tools.marked) tools.marked.target = piecesOf(whole, url.pathname + url.search, tools.marked.marks);
	if (username || password) url.username = url.password = '';
	return {
		url,
		base: connection ? await originOf(connection.base, tools) : '',
		...(username || password
			? { userinfo: { user: unescapeAddress(username), password: unescapeAddress(password) } }
			: {})
	};
}

/** A target with its path parameters (RFC 6570 where they take lists and objects) filled in. */
async function fillPath(opened: string, path: Param[], { evaluator, unmarked, scope }: Tools): Promise<string> {
	let target = opened;
	// what takes lists and objects, or brings its own separators, is filled in by its own rules
	const wide = [...target.matchAll(/\{([^{}]+)\}/g)].flatMap(([, text = '']) => uriExpression(text) ?? []);
	const typed = new Map<string, Json>();
	const wanted = new Set(wide.flatMap(({ names }) => names));
	for (const { name, value, off } of wanted.size > 0 ? path : [])
		if (!off && wanted.has(name)) typed.set(name, await unmarked.deep(value ?? null, scope));
	for (const name of wanted) if (!path.some((one) => one.name === name)) throw new HeronError('value.path', { name });
	const values = new Map<string, string>();
	for (const { name, value, off } of path) {
		if (!off && !wanted.has(name))
			values.set(name, await evaluator.text(String(value ?? ''), scope, escapeAddress, escapeAddress));
	}
	for (const expression of wide) target = target.replace(`{${expression.text}}`, () => expandUri(expression, typed));
	return target.replace(/\{([^{}]+)\}/g, (_, name: string) => {
		const value = values.get(name);
		if (value === undefined && /^[^\w$]|[*:,|]/.test(name))
			throw new HeronError('value.template', { text: `{${name}}` });
		if (value === undefined) throw new HeronError('value.path', { name });
		if (evaluator.bare(value) === '') throw new HeronError('value.pathEmpty', { name });
		// WHATWG URL section 4.4: however it is encoded, it leads to another path
		if (/^(\.|%2e){1,2}$/i.test(evaluator.bare(value)))
			throw new HeronError('value.dots', { name, value: evaluator.bare(value) });
		return value;
	});
}

/** The query of a step, and of its connection where the target is below that. */
async function queryOf(spec: SendSpec, connection: Connection | undefined, tools: Tools): Promise<string> {
	const below = connection !== undefined && connection.query.length > 0 && !ABSOLUTE.test(spec.target);
	if (!below && spec.query.length === 0) return '';
	const own = await resolveParams(spec.query, tools, escapeAddress);
	const usual = below ? await resolveParams(connection.query, tools, escapeAddress) : [];
	return [...usual.filter(([name]) => !own.some(([n]) => n === name)), ...own].map(([n, v]) => `${n}=${v}`).join('&');
}

/** The origin of a connection's base; empty when it is none. */
async function originOf(text: string, { unmarked, scope }: Tools): Promise<string> {
	return originOfText(await fillOpening(text, unmarked, scope).catch(() => ''));
}
const originOfText = memoizeByText((text) => readUrl(text)?.origin ?? '', 500);

/** An address that was read; undefined for what is none. */
function readUrl(text: string): URL | undefined {
	try {
		return new URL(text);
	} catch {
		return undefined;
	}
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
