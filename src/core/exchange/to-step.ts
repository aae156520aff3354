import { HeronError } from '../errors.ts';
import { looksSecret } from '../lint/index.ts';
import { isObject, parseJson, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { fileName } from '../model/name.ts';
import { writeParams, type Param } from '../model/params.ts';
import { isJsonType, isXmlType } from '../model/reply.ts';
import { decodeForm } from '../values/index.ts';
import type { SentCall } from './call.ts';
import { VARIABLE } from './shell.ts';

/** A value that does not belong into a file. */
export interface FoundSecret {
	name: string;
	value: string;
	/** Where it stood: `header Authorization`. */
	where: string;
}

/** A step made of a call, and what goes along with it. */
export interface MadeStep {
	step: JsonObject;
	/** The connection that it goes through; it is a new one when `connections` holds it. */
	connection: string;
	secrets: FoundSecret[];
	/** Documents that are made with it. */
	documents: { path: string; value: JsonObject }[];
	/** Names of variables that have to get a value. */
	variables: string[];
	notes: string[];
}

/** What a step is made with from a call that was pasted or recorded. */
export interface StepMaking {
	/** Connections with their base addresses, as far as those are known. */
	connections: { name: string; base: string }[];
	/** Names of files that there are, as `credentials/clerk`. */
	taken: ReadonlySet<string>;
	/** Names of secrets that there are. */
	secrets: ReadonlySet<string>;
	/** Names of secrets by their values, of calls that came before. */
	kept?: ReadonlyMap<string, string>;
	/** Addresses that connections which are made may go to, longer than origins. */
	bases?: readonly string[];
}

/** What is added for every call by itself. */
const BY_ITSELF =
	/^(host|content-length|connection|accept-encoding|transfer-encoding|expect|proxy-connection|keep-alive|te|upgrade)$/i;
/** Letters of a cookie that may be one. */
const SHORTEST_SECRET = 3;
/** What only a browser says. */
const BROWSER = /^(sec-|priority$|dnt$|upgrade-insecure-requests$|:)/i;

/** A name of a variable from words; one that starts with a digit is none. */
export const camel = (text: string): string =>
	(fileName(text).replace(/-(\w)/g, (_, letter: string) => letter.toUpperCase()) || 'value').replace(/^\d/, 's$&');

/** Makes a step of a call that was sent; what is secret in it is taken out, and told. @throws HeronError value.address */
export function stepOfCall(call: SentCall, making: StepMaking): MadeStep {
	const made: MadeStep = {
		...{ step: {}, connection: '', secrets: [], documents: [], variables: [], notes: [...call.notes] }
	};
	const variables = new Set<string>();
	/** A text as a step has it: expressions in it stay text, variables of a shell become those of the environment. */
	const plain = (text: string): string =>
		text.replaceAll('{$', '\\{$').replace(VARIABLE, (_, name: string) => {
			variables.add(name);
			return `{$env.${name}}`;
		});
	const names = new Set(making.secrets);
	const secret = (value: string, where: string, ...words: string[]): string => {
		const [, shell] = /^\uE000(\w+)\uE001$/.exec(value) ?? [];
		const known = made.secrets.find((one) => one.value === value);
		if (known) return `{$secret.${known.name}}`;
		const before = making.kept?.get(value);
		if (before) return `{$secret.${before}}`;
		const wanted = camel(shell ?? words.join(' '));
		let name = wanted;
		for (let n = 2; names.has(name); n++) name = `${wanted}${n}`;
		names.add(name);
		made.secrets.push({ name, value: shell ? '' : value, where });
		return `{$secret.${name}}`;
	};

	const address = call.url.replace(VARIABLE, (_, name: string) => name);
	const url = URL.canParse(address) ? new URL(address) : undefined;
	if (!url || !/^https?:$/.test(url.protocol))
		throw new HeronError('value.address', { address: address.slice(0, 200) });
	const { path, through } = placeOf(call.url, url, making, made);
	made.connection = through;
	// a number says nothing of where a secret is for
	const host = /^\d/.test(through) ? '' : through;
	const query = decodeForm(url.search.slice(1)).map(([name, value]): Param => ({
		name: plain(name),
		value: looksSecret('query', name, value) ? secret(value, `query ${name}`, host, name) : plain(value),
		off: false
	}));

	let type = '';
	const headers: Param[] = [];
	const cookies: Param[] = [];
	for (const [name, value] of call.headers) {
		if (/^content-type$/i.test(name)) type = value;
		else if (/^cookie$/i.test(name))
			for (const pair of value.split(/;\s*/).filter(Boolean)) {
				const at = pair.indexOf('=');
				const cookie = at < 0 ? pair : pair.slice(0, at);
				const own = at < 0 ? '' : pair.slice(at + 1);
				// what is as short as a number or a language is no secret, and would hide too much
				const shown = own.length < SHORTEST_SECRET && !VARIABLE.test(own);
				VARIABLE.lastIndex = 0;
				cookies.push({
					name: cookie,
					value: shown ? plain(own) : secret(own, `cookie ${cookie}`, host, cookie),
					off: false
				});
			}
		else if (!BY_ITSELF.test(name) && !BROWSER.test(name))
			headers.push({ name, value: headerValue(name, value), off: false });
	}
	function headerValue(name: string, value: string): string {
		const [, scheme = '', proof] = /^((?:[A-Za-z][\w-]*\s+)?)(\S[\s\S]*)$/.exec(value) ?? [];
		if (/^(proxy-)?authorization$/i.test(name) && proof)
			return `${plain(scheme)}${secret(proof, `header ${name}`, host, scheme.trim() || 'token')}`;
		return looksSecret('header', name, value)
			? secret(value, `header ${name}`, host, name.replace(/^x-/i, ''))
			: plain(value);
	}

	const step: JsonObject = { send: `${call.method} ${path}` };
	const put = (name: string, list: Param[]) => {
		if (list.length > 0) step[name] = writeParams(list);
	};
	put('query', query);
	put('headers', headers);
	put('cookies', cookies);
	const body = bodyOf(call.body, type, { plain, secret, host, notes: made.notes });
	if (body) step.body = body;
	else if (type && call.method !== 'GET')
		put('headers', [...headers, { name: 'Content-Type', value: plain(type), off: false }]);
	if (call.user) step.credential = credentialFor(call.user, host, making, made, { plain, secret });
	if (call.timeout) step.timeout = `${call.timeout} ms`;
	made.step = { ...(call.title ? { title: call.title } : {}), ...step };
	made.variables = [...variables];
	return made;
}

/** The path behind a connection's base; a connection is made for a place that none goes to. */
function placeOf(
	written: string,
	url: URL,
	{ connections, taken, bases = [] }: StepMaking,
	made: MadeStep
): { path: string; through: string } {
	const whole = `${url.origin}${url.pathname}`;
	const known = connections
		.filter(({ base }) => URL.canParse(base) && `${whole}/`.startsWith(`${base.replace(/\/+$/, '')}/`))
		.sort((a, b) => b.base.length - a.base.length)[0];
	const braces = (path: string) => path.replace(/\{/g, '%7B').replace(/\}/g, '%7D') || '/';
	// what a variable of a shell stands for cannot be told from its name
	const computed = VARIABLE.test(written.slice(0, written.indexOf('/', 8)));
	VARIABLE.lastIndex = 0;
	if (known) return { path: braces(whole.slice(known.base.replace(/\/+$/, '').length)), through: known.name };
	if (computed) made.notes.push('the host is a variable of the shell: write the address into the connection');
	const wanted =
		fileName(url.hostname.replace(/^(www|api)\./, '').replace(/\.[^.]+$/, (end) => (/\d/.test(end) ? end : ''))) ||
		'api';
	let name = wanted;
	for (let n = 2; taken.has(`connections/${name}`); n++) name = `${wanted}-${n}`;
	const base = bases.find((one) => `${whole}/`.startsWith(`${one}/`)) ?? url.origin;
	made.documents.push({ path: `connections/${name}.yaml`, value: { heron: 1, title: url.host, base } });
	return { path: braces(whole.slice(base.length)), through: name };
}

interface Texts {
	plain(text: string): string;
	secret(value: string, where: string, ...words: string[]): string;
}

function credentialFor(
	{ name: user, password, kind }: NonNullable<SentCall['user']>,
	host: string,
	{ taken }: StepMaking,
	made: MadeStep,
	{ plain, secret }: Texts
): string {
	const wanted = fileName(user.replace(VARIABLE, '$1')) || kind;
	let name = wanted;
	for (let n = 2; taken.has(`credentials/${name}`); n++) name = `${wanted}-${n}`;
	made.documents.push({
		path: `credentials/${name}.yaml`,
		value: {
			...{ heron: 1, title: user.replace(VARIABLE, '$1') || name, kind, user: plain(user) },
			password: secret(password, 'password', host, user.replace(VARIABLE, '$1'), 'password')
		}
	});
	return name;
}

/** The body as the kind that it is, so that it can be worked with; as text where it is none. */
function bodyOf(
	body: SentCall['body'],
	type: string,
	{ plain, secret, host, notes }: Texts & { host: string; notes: string[] }
): JsonObject | undefined {
	if (!body) return undefined;
	const media = type.split(';')[0]!.trim().toLowerCase();
	const filed = (path: string): string => {
		const own = `files/${path.split(/[\\/]/).pop() ?? path}`;
		notes.push(`the file ${path} is not brought: put it into the project as ${own}`);
		return own;
	};
	if ('file' in body) return { file: filed(body.file), ...(type ? { type } : {}) };
	if ('parts' in body)
		return {
			multipart: body.parts.map(({ name, value, file, type: own, filename }) => ({
				name: plain(name),
				...(file
					? { file: filed(value) }
					: { text: looksSecret('body', name, value) ? secret(value, `part ${name}`, host, name) : plain(value) }),
				...(own ? { type: own } : {}),
				...(filename ? { filename } : {})
			}))
		};
	const { text } = body;
	if (isJsonType(media) || (!media && /^\s*[[{]/.test(text)))
		try {
			const data = parseJson(text);
			const own: JsonObject = media && media !== 'application/json' ? { type } : {};
			// a text is taken as JSON text
			const hidden = (value: Json, name: string): Json =>
				typeof value === 'string'
					? looksSecret('body', name, value)
						? secret(value, `body ${name}`, host, name)
						: plain(value)
					: Array.isArray(value)
						? value.map((one) => hidden(one, name))
						: isObject(value)
							? Object.fromEntries(Object.entries(value as JsonObject).map(([key, one]) => [key, hidden(one, key)]))
							: value;
			if (typeof data === 'string') return { json: plain(text), ...own };
			const value = hidden(data, '');
			// numbers that data would write in another way stay as they are
			return { json: writesOtherwise(text, data) ? withSecrets(plain(text), data, value) : value, ...own };
		} catch {
			// a negative test sends what is no JSON
			return { text: plain(text), type: type || 'application/json' };
		}
	if (media === 'application/x-www-form-urlencoded') {
		const pairs = decodeForm(text);
		if (pairs.length > 0 && text.includes('='))
			return {
				form: writeParams(
					pairs.map(([name, value]) => ({
						name: plain(name),
						value: looksSecret('body', name, value) ? secret(value, `form ${name}`, host, name) : plain(value),
						off: false
					}))
				)
			};
	}
	if (isXmlType(media)) return { xml: plain(text), ...(media === 'application/xml' ? {} : { type }) };
	return { text: plain(text), ...(type ? { type } : {}) };
}

const NUMBERS = /"(?:[^"\\]|\\.)*"|-?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?/g;
/** Whether numbers of a JSON text would be written in another way: 2.50, 1e3. */
function writesOtherwise(text: string, data: Json): boolean {
	const numbers = (json: string) => [...json.matchAll(NUMBERS)].flatMap(([one]) => (one.startsWith('"') ? [] : [one]));
	const written = numbers(writeJson(data));
	return numbers(text).some((one, index) => one !== written[index]);
}

/** A JSON text in which those texts that were taken out of its data are references. */
function withSecrets(text: string, before: Json, after: Json): string {
	if (typeof before === 'string' && typeof after === 'string')
		return before !== after && after.startsWith('{$secret.')
			? text.replaceAll(JSON.stringify(before), `"${after}"`)
			: text;
	if (typeof before !== 'object' || before === null) return text;
	return Object.keys(before).reduce(
		(now, key) => withSecrets(now, (before as Record<string, Json>)[key]!, (after as Record<string, Json>)[key]!),
		text
	);
}
