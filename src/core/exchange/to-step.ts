import { HeronError } from '../errors.ts';
import { looksSecret } from '../lint/index.ts';
import { isObject, parseJson, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { fileName } from '../model/name.ts';
import { writeParams, type Param } from '../model/params.ts';
import { isJsonType, isXmlType } from '../model/reply.ts';
import { shortened } from '../model/shortened.ts';
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
export const stepOfCall = (call: SentCall, making: StepMaking): MadeStep => new StepMaker(call, making).step();

class StepMaker implements Texts {
	readonly #call: SentCall;
	readonly #making: StepMaking;
	readonly #made: MadeStep;
	readonly #variables = new Set<string>();
	/** Names of secrets. */
	readonly #names: Set<string>;
	/** What secrets are called after. */
	#host = '';

	constructor(call: SentCall, making: StepMaking) {
		this.#call = call;
		this.#making = making;
		this.#names = new Set(making.secrets);
		this.#made = {
			...{ step: {}, connection: '', secrets: [], documents: [], variables: [], notes: [...call.notes] }
		};
	}

	step(): MadeStep {
		const { method, title, user, timeout, body: sent } = this.#call;
		const made = this.#made;
		const url = this.#url();
		const { path, through } = placeOf(this.#call.url, url, this.#making, made);
		made.connection = through;
		// a number says nothing of where a secret is for
		this.#host = /^\d/.test(through) ? '' : through;
		const query = decodeForm(url.search.slice(1)).map(([name, value]) => this.#query(name, value));
		const { headers, cookies, type } = this.#fields();
		const step: JsonObject = { send: `${method} ${path}` };
		const put = (name: string, list: Param[]) => {
			if (list.length > 0) step[name] = writeParams(list);
		};
		put('query', query);
		put('headers', headers);
		put('cookies', cookies);
		const body = bodyOf(sent, type, this, { host: this.#host, notes: made.notes });
		if (body) step.body = body;
		else if (type && method !== 'GET')
			put('headers', [...headers, { name: 'Content-Type', value: this.plain(type), off: false }]);
		if (user) step.credential = credentialFor(user, this.#host, this.#making, made, this);
		if (timeout) step.timeout = `${timeout} ms`;
		made.step = { ...(title ? { title } : {}), ...step };
		made.variables = [...this.#variables];
		return made;
	}

	plain(text: string): string {
		return text.replaceAll('{$', '\\{$').replace(VARIABLE, (_, name: string) => {
			this.#variables.add(name);
			return `{$env.${name}}`;
		});
	}

	secret(value: string, where: string, ...words: string[]): string {
		const { secrets } = this.#made;
		const [, shell] = /^\uE000(\w+)\uE001$/.exec(value) ?? [];
		const known = secrets.find((one) => one.value === value)?.name ?? this.#making.kept?.get(value);
		if (known) return `{$secret.${known}}`;
		const wanted = camel(shell ?? words.join(' '));
		let name = wanted;
		for (let n = 2; this.#names.has(name); n++) name = `${wanted}${n}`;
		this.#names.add(name);
		secrets.push({ name, value: shell ? '' : value, where });
		return `{$secret.${name}}`;
	}

	#url(): URL {
		const address = this.#call.url.replace(VARIABLE, (_, name: string) => name);
		const url = URL.canParse(address) ? new URL(address) : undefined;
		if (!url || !/^https?:$/.test(url.protocol))
			throw new HeronError('value.address', { address: shortened(address, 200) });
		return url;
	}

	#query(name: string, value: string): Param {
		const hidden = looksSecret('query', name, value);
		return {
			name: this.plain(name),
			value: hidden ? this.secret(value, `query ${name}`, this.#host, name) : this.plain(value),
			off: false
		};
	}

	#fields(): { headers: Param[]; cookies: Param[]; type: string } {
		const found: { headers: Param[]; cookies: Param[]; type: string } = { headers: [], cookies: [], type: '' };
		for (const [name, value] of this.#call.headers) {
			if (/^content-type$/i.test(name)) found.type = value;
			else if (/^cookie$/i.test(name))
				found.cookies.push(
					...value
						.split(/;\s*/)
						.filter(Boolean)
						.map((pair) => this.#cookie(pair))
				);
			else if (!BY_ITSELF.test(name) && !BROWSER.test(name))
				found.headers.push({ name, value: this.#header(name, value), off: false });
		}
		return found;
	}

	#cookie(pair: string): Param {
		const at = pair.indexOf('=');
		const name = at < 0 ? pair : pair.slice(0, at);
		const own = at < 0 ? '' : pair.slice(at + 1);
		// what is as short as a number or a language is no secret, and would hide too much
		const shown = own.length < SHORTEST_SECRET && !VARIABLE.test(own);
		VARIABLE.lastIndex = 0;
		return { name, value: shown ? this.plain(own) : this.secret(own, `cookie ${name}`, this.#host, name), off: false };
	}

	#header(name: string, value: string): string {
		const [, scheme = '', proof] = /^((?:[A-Za-z][\w-]*\s+)?)(\S[\s\S]*)$/.exec(value) ?? [];
		const where = `header ${name}`;
		if (/^(proxy-)?authorization$/i.test(name) && proof)
			return `${this.plain(scheme)}${this.secret(proof, where, this.#host, scheme.trim() || 'token')}`;
		return looksSecret('header', name, value)
			? this.secret(value, where, this.#host, name.replace(/^x-/i, ''))
			: this.plain(value);
	}
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
	/** A text as a step has it: expressions in it stay text, variables of a shell become those of the environment. */
	plain(text: string): string;
	/** The expression of a secret that a value is made. @param words what it is called after */
	secret(value: string, where: string, ...words: string[]): string;
}

function credentialFor(
	{ name: user, password, kind }: NonNullable<SentCall['user']>,
	host: string,
	{ taken }: StepMaking,
	made: MadeStep,
	texts: Texts
): string {
	const wanted = fileName(user.replace(VARIABLE, '$1')) || kind;
	let name = wanted;
	for (let n = 2; taken.has(`credentials/${name}`); n++) name = `${wanted}-${n}`;
	made.documents.push({
		path: `credentials/${name}.yaml`,
		value: {
			...{ heron: 1, title: user.replace(VARIABLE, '$1') || name, kind, user: texts.plain(user) },
			password: texts.secret(password, 'password', host, user.replace(VARIABLE, '$1'), 'password')
		}
	});
	return name;
}

/** The body as the kind that it is, so that it can be worked with; as text where it is none. */
function bodyOf(
	body: SentCall['body'],
	type: string,
	texts: Texts,
	{ host, notes }: { host: string; notes: string[] }
): JsonObject | undefined {
	if (!body) return undefined;
	const media = type.split(';')[0]!.trim().toLowerCase();
	const filed = (path: string): string => {
		const own = `files/${path.split(/[\\/]/).pop() ?? path}`;
		notes.push(`the file ${path} is not brought: put it into the project as ${own}`);
		return own;
	};
	const hidden: Hidden = (what, name, value) =>
		looksSecret('body', name, value) ? texts.secret(value, `${what} ${name}`, host, name) : texts.plain(value);
	if ('file' in body) return { file: filed(body.file), ...(type ? { type } : {}) };
	if ('parts' in body)
		return {
			multipart: body.parts.map(({ name, value, file, type: own, filename }) => ({
				name: texts.plain(name),
				...(file ? { file: filed(value) } : { text: hidden('part', name, value) }),
				...(own ? { type: own } : {}),
				...(filename ? { filename } : {})
			}))
		};
	const { text } = body;
	if (isJsonType(media) || (!media && /^\s*[[{]/.test(text))) {
		const own: JsonObject = media && media !== 'application/json' ? { type } : {};
		const json = jsonOf(text, texts, hidden);
		// a negative test sends what is no JSON
		if (json === undefined) return { text: texts.plain(text), type: type || 'application/json' };
		return { json, ...own };
	}
	const pairs = media === 'application/x-www-form-urlencoded' && text.includes('=') ? decodeForm(text) : [];
	if (pairs.length > 0) {
		const field = ([name, value]: [string, string]): Param => ({
			...{ name: texts.plain(name), off: false },
			value: hidden('form', name, value)
		});
		return { form: writeParams(pairs.map(field)) };
	}
	if (isXmlType(media)) return { xml: texts.plain(text), ...(media === 'application/xml' ? {} : { type }) };
	return { text: texts.plain(text), ...(type ? { type } : {}) };
}

/** A text as a step has it, or the expression of the secret that it looks like. */
type Hidden = (what: 'body' | 'form' | 'part', name: string, value: string) => string;

/** JSON as a step has it; undefined for what is none. */
function jsonOf(text: string, texts: Texts, hidden: Hidden): Json | undefined {
	let data: Json;
	try {
		data = parseJson(text);
	} catch {
		return undefined;
	}
	// a text is taken as JSON text
	if (typeof data === 'string') return texts.plain(text);
	const inside = (value: Json, name: string): Json => {
		if (typeof value === 'string') return hidden('body', name, value);
		if (Array.isArray(value)) return value.map((one) => inside(one, name));
		if (!isObject(value)) return value;
		return Object.fromEntries(Object.entries(value as JsonObject).map(([key, one]) => [key, inside(one, key)]));
	};
	const value = inside(data, '');
	// numbers that data would write in another way stay as they are
	return writesOtherwise(text, data) ? withSecrets(texts.plain(text), data, value) : value;
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
		return before !== after && after.startsWith('{$secret.') ? text.replaceAll(writeJson(before), `"${after}"`) : text;
	if (typeof before !== 'object' || before === null) return text;
	return Object.keys(before).reduce(
		(now, key) => withSecrets(now, (before as Record<string, Json>)[key]!, (after as Record<string, Json>)[key]!),
		text
	);
}
