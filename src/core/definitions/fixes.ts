import { isObject, parseJson, writeJson, type Json, type JsonObject } from '../model/json.ts';
import {
	bodiesOf,
	flatSchema,
	nameOf,
	parametersOf,
	sampleOf,
	shapeOfPath,
	type OpenapiOperation,
	type Parameter
} from '../openapi/index.ts';

/** A change of steps that makes them fit the new version of a definition. */
export interface StepFix {
	/** By which it is chosen. */
	key: string;
	/** What it does, in words. */
	label: string;
	/** The step as it is written afterwards; the same object where there is nothing to change. */
	edit(step: JsonObject): JsonObject;
}

const holesIn = (template: string): string[] => [...template.matchAll(/\{([^{}]*)\}/g)].map(([, name = '']) => name);
const literal = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');

/** Method, path and the rest of what a step sends. */
function sendOf(step: JsonObject): { method: string; path: string; rest: string } | undefined {
	const [, method = '', path = '', rest = ''] =
		/^(\S+\s+)((?:\{\$[^{}]*\}|[^?#])*)([\s\S]*)$/.exec(String(step.send ?? '')) ?? [];
	return path ? { method, path, rest } : undefined;
}

/** A path by another template: what stands in its holes goes where the same hole is then, or the one at the same place. */
function movedPath(path: string, before: string, after: string): string | undefined {
	const [parts, from, to] = [path, before, after].map((text) => text.split('/').filter(Boolean)) as [
		string[],
		string[],
		string[]
	];
	const start = parts.length - from.length;
	if (start < 0) return undefined;
	const values = new Map<string, string>();
	for (const [index, part] of from.entries()) {
		const names = holesIn(part);
		const pattern = new RegExp(
			`^${part
				.split(/\{[^{}]*\}/)
				.map(literal)
				.join('(.+)')}$`
		);
		const found = pattern.exec(parts[start + index]!);
		if (!found) return undefined;
		for (const [at, name] of names.entries()) values.set(name, found[at + 1]!);
	}
	const [old, now] = [holesIn(before), holesIn(after)];
	const lost = now.some(
		(name, index) => !values.has(name) && (old.length !== now.length || values.get(old[index]!) === undefined)
	);
	if (lost) return undefined;
	const filled = to.map((part) =>
		part.replace(/\{([^{}]*)\}/g, (_, name: string) => values.get(name) ?? values.get(old[now.indexOf(name)]!)!)
	);
	return `/${[...parts.slice(0, start), ...filled].join('/')}`;
}

function moved(one: OpenapiOperation, now: OpenapiOperation): StepFix | undefined {
	if (shapeOfPath(one.template) === shapeOfPath(now.template)) return undefined;
	const name = nameOf(one);
	return {
		key: `${name} moved`,
		label: `${name} is called at ${now.template}`,
		edit(step) {
			const send = sendOf(step);
			const path = send && movedPath(send.path, one.template, now.template);
			if (!send || path === undefined || path === send.path) return step;
			// an address with its host, or with what opens it, keeps that
			const opening = /^(?:https?:\/\/[^/]*|\{\$[^{}]*\})/i.exec(send.path)?.[0] ?? '';
			const own = opening ? movedPath(send.path.slice(opening.length), one.template, now.template) : path;
			return own === undefined ? step : { ...step, send: `${send.method}${opening}${own}${send.rest}` };
		}
	};
}

type Place = 'query' | 'header' | 'cookie';
const KEYS: Record<Place, string> = { query: 'query', header: 'headers', cookie: 'cookies' };
const isPlace = (place: string): place is Place => Object.hasOwn(KEYS, place);
const same = (place: string, a: string, b: string): boolean =>
	place === 'header' ? a.toLowerCase() === b.toLowerCase() : a === b;

/** The entries of a map of parameters, or of its list of pairs. */
const entriesOf = (given: Json | undefined): [string, Json][] =>
	Array.isArray(given)
		? given.filter((one): one is [string, Json] => Array.isArray(one) && typeof one[0] === 'string')
		: isObject(given)
			? Object.entries(given as JsonObject)
			: [];
const isOff = (value: Json): boolean => isObject(value) && value.off === true;
const gives = (step: JsonObject, place: Place, name: string): boolean =>
	entriesOf(step[KEYS[place]]).some(([key, value]) => same(place, key, name) && !isOff(value)) ||
	(place === 'query' && new RegExp(`[?&]${literal(name)}=`).test(String(step.send ?? '')));

/** A step with a parameter given, in the form in which the others stand. */
function withParameter(step: JsonObject, place: Place, name: string, value: Json): JsonObject {
	const key = KEYS[place];
	const given = step[key];
	if (Array.isArray(given)) {
		const rest = entriesOf(given).filter(([own]) => !same(place, own, name));
		return { ...step, [key]: [...rest, [name, value]] as Json };
	}
	const rest = Object.fromEntries(entriesOf(given).filter(([own]) => !same(place, own, name)));
	return { ...step, [key]: { ...rest, [name]: value } };
}

function renamed(step: JsonObject, place: Place, from: string, to: string): JsonObject {
	const key = KEYS[place];
	const given = step[key];
	const change = ([name, value]: [string, Json]): [string, Json] => [same(place, name, from) ? to : name, value];
	if (entriesOf(given).some(([name]) => same(place, name, from)))
		return {
			...step,
			[key]: Array.isArray(given)
				? (entriesOf(given).map(change) as Json)
				: Object.fromEntries(entriesOf(given).map(change))
		};
	if (place !== 'query') return step;
	const send = String(step.send ?? '');
	const next = send.replace(new RegExp(`([?&])${literal(from)}=`, 'g'), `$1${to}=`);
	return next === send ? step : { ...step, send: next };
}

const typeOf = ({ schema }: Parameter): string => writeJson(flatSchema(schema, schema).type ?? '');
function sampleFor({ schema, example }: Parameter): Json {
	const value = example ?? sampleOf(schema);
	return Array.isArray(value) ? value.map(String).join(',') : isObject(value) ? writeJson(value) : (value ?? 'text');
}

function parameters(one: OpenapiOperation, now: OpenapiOperation): StepFix[] {
	const out: StepFix[] = [];
	const name = nameOf(one);
	const [was, is] = [one, now].map((operation) => parametersOf(operation).filter((given) => isPlace(given.in)));
	const among = (list: Parameter[], given: Parameter) =>
		list.find((other) => other.in === given.in && same(given.in, other.name, given.name));
	const gone = was!.filter((given) => !among(is!, given));
	const come = is!.filter((given) => !among(was!, given));
	const taken = new Set<Parameter>();
	for (const old of gone) {
		const [next, ...more] = come.filter(
			(given) => given.in === old.in && typeOf(given) === typeOf(old) && !taken.has(given)
		);
		const rivals = gone.filter((given) => given.in === old.in && typeOf(given) === typeOf(old));
		// what is called otherwise can be told only where it is the only one
		if (!next || more.length > 0 || rivals.length > 1) continue;
		taken.add(next);
		const place = old.in as Place;
		out.push({
			key: `${name} ${place} ${old.name} renamed`,
			label: `${name}: ${place} ${old.name} is called ${next.name}`,
			edit: (step) => renamed(step, place, old.name, next.name)
		});
	}
	for (const given of is!) {
		if (!given.required || taken.has(given) || among(was!, given)?.required) continue;
		const place = given.in as Place;
		out.push({
			key: `${name} ${place} ${given.name} given`,
			label: `${name}: ${place} ${given.name} is given`,
			edit: (step) => (gives(step, place, given.name) ? step : withParameter(step, place, given.name, sampleFor(given)))
		});
	}
	return out;
}

const isJson = (type: string): boolean => /^application\/(.+\+)?json\b/i.test(type);
const DEEPEST = 20;

/** A value with what the new schema requires and the old one did not; the same where nothing is missing. */
function completed(
	value: Json,
	old: JsonObject,
	now: JsonObject,
	roots: [JsonObject, JsonObject],
	added: Set<string>,
	at: string,
	deep = 0
): Json {
	if (deep > DEEPEST) return value;
	const [was, is] = [flatSchema(roots[0], old), flatSchema(roots[1], now)];
	if (Array.isArray(value)) {
		const [before, after] = [was.items, is.items];
		if (!isObject(after)) return value;
		const items = value.map((one) =>
			completed(
				one,
				(isObject(before) ? before : {}) as JsonObject,
				after as JsonObject,
				roots,
				added,
				`${at}[]`,
				deep + 1
			)
		);
		return items.every((one, index) => one === value[index]) ? value : items;
	}
	if (!isObject(value)) return value;
	const [before, after] = [was, is].map(({ properties }) => (isObject(properties) ? (properties as JsonObject) : {}));
	const next: JsonObject = { ...(value as JsonObject) };
	let changed = false;
	const required = (schema: JsonObject) => (Array.isArray(schema.required) ? schema.required.map(String) : []);
	for (const name of required(is)) {
		if (Object.hasOwn(next, name) || required(was).includes(name)) continue;
		const schema = after![name];
		const made = isObject(schema) ? sampleOf({ ...(schema as JsonObject), $defs: roots[1].$defs ?? {} }) : 'text';
		if (made === undefined) continue;
		next[name] = made;
		added.add(`${at}.${name}`);
		changed = true;
	}
	for (const [name, one] of Object.entries(next)) {
		const [inner, own] = [before![name], after![name]];
		if (!isObject(own) || added.has(`${at}.${name}`)) continue;
		const done = completed(
			one,
			(isObject(inner) ? inner : {}) as JsonObject,
			own as JsonObject,
			roots,
			added,
			`${at}.${name}`,
			deep + 1
		);
		if (done === one) continue;
		next[name] = done;
		changed = true;
	}
	return changed ? next : value;
}

function body(one: OpenapiOperation, now: OpenapiOperation): StepFix[] {
	const [was, is] = [one, now].map((operation) => bodiesOf(operation).find(({ type }) => isJson(type))?.schema);
	if (!is) return [];
	const old = was ?? {};
	const roots: [JsonObject, JsonObject] = [old, is];
	const name = nameOf(one);
	return [
		{
			key: `${name} body`,
			label: `${name}: the body gets the fields that it must have now`,
			edit(step) {
				const given = isObject(step.body) ? (step.body as JsonObject) : undefined;
				const { json } = given ?? {};
				if (!given || json === undefined) return step;
				let value: Json = json;
				if (typeof json === 'string')
					try {
						value = parseJson(json);
					} catch {
						// with expressions in it, or wrong on purpose
						return step;
					}
				const next = completed(value, old, is, roots, new Set(), '$');
				if (next === value) return step;
				return { ...step, body: { ...given, json: typeof json === 'string' ? writeJson(next, 2) : next } };
			}
		}
	];
}

/** What makes the steps that call operations fit their new version, as far as it is plain what is meant. */
export function fixesOf(
	before: readonly OpenapiOperation[],
	after: readonly OpenapiOperation[]
): Map<string, StepFix[]> {
	const key = ({ method, template }: OpenapiOperation) => `${method} ${shapeOfPath(template)}`;
	const now = new Map(after.map((one) => [key(one), one]));
	const old = new Set(before.map(key));
	const out = new Map<string, StepFix[]>();
	for (const one of before) {
		const next =
			now.get(key(one)) ??
			(one.id
				? after.find((other) => other.id === one.id && other.method === one.method && !old.has(key(other)))
				: undefined);
		if (!next) continue;
		const fixes = [moved(one, next) ?? [], parameters(one, next), body(one, next)].flat();
		if (fixes.length > 0) out.set(nameOf(one), fixes);
	}
	return out;
}
