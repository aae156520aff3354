import { namespaces, parseNamespaces } from '../model/namespaces.ts';
import type { Namespaces } from '../model/xml.ts';
import { hasExpression } from '../values/index.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import type { DocumentKind } from './kind.ts';
import { checkParams, parseParams, PARAMS_SCHEMA, type Param } from '../model/params.ts';
import {
	address,
	choice,
	duration,
	findProblems,
	flag,
	jsonSchemaOf,
	names,
	open,
	record,
	shaped,
	text,
	version,
	whole
} from '../model/shape.ts';
import {
	HTTP_VERSIONS,
	proxyAddress,
	TLS_VERSIONS,
	versionRange,
	type HttpVersion,
	type TlsSettings,
	type TransportSettings,
	type TlsVersion
} from '../model/transport.ts';
import { parseDuration } from '../model/units.ts';

/** Time limits in milliseconds. */
export interface Timeouts {
	connect: number;
	reply: number;
	whole: number;
}

/** How redirects are followed (RFC 9110 section 15.4). */
export interface Redirects {
	/** How many are followed; 0 for none. */
	follow: number;
	/** 301, 302 and 303 keep the method and body too. */
	keepMethod: boolean;
	/** Credentials go to another host too. */
	keepCredentials: boolean;
}

/** Where calls go: a file in `connections/`. */
export interface Connection extends TransportSettings {
	name: string;
	title: string;
	base: string;
	/** A file in credentials/, `none`, or empty. */
	credential: string;
	/** A file in definitions/, or empty for whichever knows a call. */
	definition: string;
	/** Namespaces by the prefixes of selectors; they go before those of the project. */
	namespaces: Namespaces;
	headers: Param[];
	query: Param[];
	/** Cookies that replies set are sent again in the same scenario. */
	cookies: boolean;
	timeouts: Timeouts;
	redirects: Redirects;
	/** As written, without what differs in environments. */
	raw: JsonObject;
	/** Settings beyond address, headers and query hold expressions. */
	computed: boolean;
	/** The whole connection as it is in environments where it differs. */
	variants: Map<string, Connection>;
}

/** In milliseconds. */
export const DEFAULT_TIMEOUTS: Timeouts = { connect: 5000, reply: 30_000, whole: 60_000 };
/** How redirects are followed when a connection says nothing of them. */
export const DEFAULT_REDIRECTS: Redirects = { follow: 5, keepMethod: false, keepCredentials: false };

const redirects = record({
	follow: whole('How many redirects are followed; 0 for none.', 0, 50),
	keepMethod: flag('301, 302 and 303 keep the method and the body too.'),
	keepCredentials: flag('Credentials go to another host too.')
});

const proxyText = address(
	'http://host:port of the proxy; https:// where it speaks TLS, socks5:// for one of RFC 1928.',
	'the address of a proxy is wanted, such as http://proxy.example:3128, https:// or socks5://',
	(given) => proxyAddress(given) !== undefined
);
const proxy = record(
	{
		address: proxyText,
		user: text('For a proxy that wants to know who asks.'),
		password: text('By reference: {$secret.NAME}.'),
		except: names('Hosts that are reached without it: a name, or .suffix for all below.')
	},
	{ address: 'the proxy, such as http://proxy.example:3128' }
);

const either = (first: Parameters<typeof jsonSchemaOf>[0], isFirst: (v: unknown) => boolean, second: typeof first) =>
	shaped({ anyOf: [jsonSchemaOf(first), jsonSchemaOf(second)] }, (value, report) => {
		for (const { path, message } of findProblems(isFirst(value) ? first : second, value)) report(path, message);
	});

const asText = (value: unknown): string => (value === undefined || value === null ? '' : String(value));
/** `1.0` without quotes is the number 1 in YAML. */
const versionOf = (value: unknown): TlsVersion | '' => (value === 1 ? '1.0' : asText(value)) as TlsVersion | '';

const tls = record(
	{
		min: open(choice(TLS_VERSIONS, 'The lowest version that is spoken.')),
		max: open(choice(TLS_VERSIONS, 'The highest version that is spoken.')),
		authorities: names('Trusted beside the machine’s own: files of the project, or PEM.'),
		client: record(
			{
				certificate: text('A PEM file of the project, or PEM.'),
				key: text('Its private key: a PEM file, or a secret that holds PEM.'),
				pkcs12: text('A PKCS#12 file of the project instead of the pair.'),
				passphrase: text('Opens the key or the PKCS#12 file; by reference: {$secret.NAME}.')
			},
			{},
			(value, report) => {
				const { certificate, key, pkcs12 } = value;
				if (pkcs12 && (certificate || key)) report([], 'either pkcs12, or certificate and key');
				else if (!pkcs12 && !certificate) report([], 'a certificate with its key is wanted, or a pkcs12 file');
				else if (certificate && !key) report([], 'the key of the certificate is missing');
			}
		),
		name: text('The name that is asked for, which the certificate must hold, when it is not the host’s.'),
		verify: open(flag('false: the certificate is not looked at. Only while you find out what is wrong.'))
	},
	{},
	(value, report) => {
		const { min, max } = versionRange({ min: versionOf(value.min), max: versionOf(value.max) });
		if (min > max) report([value.min === undefined ? 'max' : 'min'], `no version is left between ${min} and ${max}`);
	}
);

const settings = {
	base: address('The address that paths are appended to.', 'an address is wanted, such as https://host/v1'),
	credential: text('A file in credentials/; none when left out.'),
	definition: text(
		'The OpenAPI document in definitions/ that replies are held against, where several know the same call.'
	),
	namespaces,
	headers: shaped(PARAMS_SCHEMA, checkParams),
	query: shaped(PARAMS_SCHEMA, checkParams),
	cookies: open(flag('Cookies that replies set are sent again in the same scenario.')),
	http: open(choice(HTTP_VERSIONS, 'The version of HTTP; auto takes 2 where the server offers it.')),
	timeouts: record({
		connect: open(duration('Until name, connection and TLS are there.')),
		reply: open(duration('From the request’s end to the first byte of the reply.')),
		whole: open(duration('The whole exchange, redirects included.'))
	}),
	redirects: either(
		open(whole('How many redirects are followed; 0 for none.', 0, 50)),
		(value) => !isObject(value),
		redirects
	),
	proxy: either(proxyText, (value) => !isObject(value), proxy),
	tls
};

export const connection: DocumentKind = {
	name: 'connection',
	folder: 'connections',
	doc: 'Where calls go: base address, credential, transport, default headers and query.',
	schema: record(
		{
			heron: version,
			title: text('The name that people read.'),
			...settings,
			environments: shaped(
				{ type: 'object', additionalProperties: jsonSchemaOf(record(settings)) },
				(value, report) => {
					if (!isObject(value)) return report([], 'environments with what differs there are wanted');
					for (const [name, item] of Object.entries(value))
						for (const { path, message } of findProblems(record(settings), item)) report([name, ...path], message);
				}
			)
		},
		{ heron: 'the version of the format, heron: 1', base: 'the address that paths are appended to' }
	),
	example: {
		heron: 1,
		title: 'Reedmere API',
		base: '{$env.reedmere}',
		credential: 'clerk',
		headers: { Accept: 'application/json' },
		timeouts: { connect: '5 s', reply: '30 s', whole: '60 s' },
		redirects: 5,
		tls: { min: '1.2', authorities: ['files/authority.pem'] },
		environments: { staging: { base: 'https://staging.reedmere.example/v1', tls: { verify: true } } }
	}
};

/** Maps merge key by key; everything else is replaced. */
function merged(base: unknown, over: unknown): Json {
	if (!isObject(base) || !isObject(over)) return over as Json;
	const out: JsonObject = { ...(base as JsonObject) };
	for (const [key, value] of Object.entries(over)) out[key] = merged(out[key], value);
	return out;
}

const TEXTS = new Set([
	'heron',
	'title',
	'base',
	'headers',
	'query',
	'credential',
	'definition',
	'namespaces',
	'environments'
]);
const computes = (value: unknown): boolean =>
	typeof value === 'string'
		? hasExpression(value)
		: typeof value === 'object' && value !== null && Object.values(value).some(computes);

function parseTls(given: unknown): TlsSettings | undefined {
	if (!isObject(given)) return undefined;
	const client = isObject(given.client) ? given.client : undefined;
	return {
		min: versionOf(given.min),
		max: versionOf(given.max),
		authorities: Array.isArray(given.authorities) ? given.authorities.map(String) : [],
		name: asText(given.name),
		verify: given.verify !== false && given.verify !== 'false',
		...(client
			? {
					client: {
						certificate: asText(client.certificate),
						key: asText(client.key),
						pkcs12: asText(client.pkcs12),
						passphrase: asText(client.passphrase)
					}
				}
			: {})
	};
}

/** A connection in full, defaults filled in; what differs in environments is in `variants`. */
export function parseConnection(name: string, value: Json): Connection {
	const { environments, ...raw } = (isObject(value) ? value : {}) as JsonObject;
	const one = parseOne(name, raw);
	if (isObject(environments)) {
		for (const [environment, over] of Object.entries(environments))
			one.variants.set(environment, parseOne(name, merged(raw, over) as JsonObject));
	}
	return one;
}

function parseOne(name: string, given: JsonObject): Connection {
	const limits = isObject(given.timeouts) ? given.timeouts : {};
	const follow = (isObject(given.redirects) ? given.redirects : { follow: given.redirects }) as Record<
		string,
		Json | undefined
	>;
	const via = (isObject(given.proxy) ? given.proxy : { address: given.proxy }) as Record<string, Json | undefined>;
	const tlsSettings = parseTls(given.tls);
	const number = Number(follow.follow ?? NaN);
	return {
		name,
		title: String(given.title ?? name),
		base: String(given.base ?? ''),
		credential: asText(given.credential),
		definition: asText(given.definition),
		namespaces: parseNamespaces(given.namespaces),
		headers: parseParams(given.headers),
		query: parseParams(given.query),
		cookies: given.cookies !== false && given.cookies !== 'false',
		http: (HTTP_VERSIONS as readonly string[]).includes(String(given.http))
			? (String(given.http) as HttpVersion)
			: '1.1',
		timeouts: {
			connect: parseDuration(limits.connect) ?? DEFAULT_TIMEOUTS.connect,
			reply: parseDuration(limits.reply) ?? DEFAULT_TIMEOUTS.reply,
			whole: parseDuration(limits.whole) ?? DEFAULT_TIMEOUTS.whole
		},
		redirects: {
			follow: Number.isInteger(number) ? number : DEFAULT_REDIRECTS.follow,
			keepMethod: follow.keepMethod === true,
			keepCredentials: follow.keepCredentials === true
		},
		proxy: {
			address: asText(via.address),
			user: asText(via.user),
			password: asText(via.password),
			except: Array.isArray(via.except) ? via.except.map(String) : []
		},
		...(tlsSettings ? { tls: tlsSettings } : {}),
		raw: given,
		computed: Object.entries(given).some(([key, item]) => !TEXTS.has(key) && computes(item)),
		variants: new Map()
	};
}

/** The connection as it is in an environment. */
export const inEnvironment = (connection: Connection, environment: string): Connection =>
	connection.variants.get(environment) ?? connection;

/** The variable that holds the address of a stand-in that runs. */
export const standInVariable = (name: string): string => `stand-in ${name}`;
/** The stand-in whose address a variable holds; undefined for any other variable. */
export const standInOf = (variable: string): string | undefined =>
	variable.startsWith('stand-in ') ? variable.slice('stand-in '.length) : undefined;

const stood = new WeakMap<Connection, Map<string, Connection>>();
/**
 * A connection that stand-ins answer for in some environments: calls go to them, whatever else it says of the way there,
 * and their certificates, which are made when they start, are not checked.
 * @param by environments with the name of the stand-in that answers there
 */
export function stoodIn(connection: Connection, by: ReadonlyMap<string, string>): Connection {
	if (by.size === 0) return connection;
	const key = [...by].flat().join('\0');
	const kept = stood.get(connection) ?? new Map<string, Connection>();
	stood.set(connection, kept);
	let made = kept.get(key);
	if (!made) {
		const variants = new Map(connection.variants);
		for (const [environment, name] of by) {
			const { raw } = inEnvironment(connection, environment);
			const tls = isObject(raw.tls) ? raw.tls : {};
			const base = `{$env.\`${standInVariable(name)}\`}`;
			variants.set(environment, parseOne(connection.name, { ...raw, base, proxy: '', tls: { ...tls, verify: false } }));
		}
		kept.set(key, (made = { ...connection, variants }));
	}
	return made;
}

/** A connection whose settings hold expressions, with their values filled in. */
export async function settleConnection(
	connection: Connection,
	fill: (value: Json) => Json | Promise<Json>
): Promise<Connection> {
	if (!connection.computed) return connection;
	const filled: JsonObject = {};
	for (const [key, value] of Object.entries(connection.raw)) filled[key] = TEXTS.has(key) ? value : await fill(value);
	return { ...parseOne(connection.name, filled), computed: false };
}
