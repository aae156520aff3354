import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { compilePattern, unescapeAddress } from '../values/index.ts';
import { inside, items, members, type Node, type OpenapiDocument } from './document.ts';
import { routeOf, variantOf, type Carried } from './variants.ts';

/** One thing that a definition offers: a method at a path. */
export interface OpenapiOperation {
	document: OpenapiDocument;
	/** In capitals. */
	method: string;
	/** The path as written, with `{name}` for its parameters; some have a query or a fragment ({@link routeOf}). */
	template: string;
	/** operationId, or empty. */
	id: string;
	node: Node<JsonObject>;
	/** The path that it stands in. */
	path: Node<JsonObject>;
	/** Parameters of all methods of the path. */
	shared: Node[];
	/** Paths that may stand before the template, without a slash at their end. */
	prefixes: string[];
	/** The service makes it (a webhook, a callback): what goes with it is what the service gives. */
	fromService?: true;
}

/** Methods that a path may have, as written there. */
export const METHODS = ['get', 'put', 'post', 'delete', 'options', 'head', 'patch', 'trace'];

const isNodeOfObject = (node: Node<Json | undefined>): node is Node<JsonObject> => isObject(node.value);

/** So many paths may the variables of one server make. */
const MOST_PREFIXES = 200;

/** The paths of a server's address, its variables at their defaults and at each of their values (OpenAPI 3.1 sections 4.8.5 and 4.8.6). */
function pathsOf(server: Json): string[] {
	if (!isObject(server) || typeof server.url !== 'string') return [];
	const variables = isObject(server.variables) ? server.variables : {};
	let urls = [server.url];
	for (const [hole, name = ''] of server.url.matchAll(/\{([^{}]+)\}/g)) {
		const given = variables[name];
		const variable = isObject(given) ? given : {};
		const listed = Array.isArray(variable.enum) ? variable.enum : [];
		const values = [...new Set([variable.default ?? listed[0] ?? name, ...listed].map(String))];
		urls = urls.flatMap((url) => values.map((value) => url.replace(hole, () => value))).slice(0, MOST_PREFIXES);
	}
	const base = 'http://here.invalid/';
	return [
		...new Set(urls.flatMap((url) => (URL.canParse(url, base) ? new URL(url, base).pathname.replace(/\/+$/, '') : [])))
	];
}
const prefixesOf = (servers: Node<Json | undefined>): string[] => items(servers).flatMap(({ value }) => pathsOf(value));

/** All operations of a document, in its order; those of a path whose reference leads nowhere are left out. */
export function operationsOf(document: OpenapiDocument): OpenapiOperation[] {
	const { root } = document;
	const { basePath } = root.value;
	const own =
		document.version === '2.0'
			? [typeof basePath === 'string' ? basePath.replace(/\/+$/, '') : '']
			: prefixesOf(inside(root, 'servers'));
	return members(inside(root, 'paths')).flatMap(([template, given]) => {
		if (!template.startsWith('/')) return [];
		let path: Node;
		try {
			path = document.follow(given);
		} catch {
			// told by the document's warnings; the others can be called
			return [];
		}
		if (!isNodeOfObject(path)) return [];
		return METHODS.flatMap((method): OpenapiOperation[] => {
			const node = inside(path, method);
			if (!isNodeOfObject(node)) return [];
			const nearest = [prefixesOf(inside(node, 'servers')), prefixesOf(inside(path, 'servers')), own].find(
				(one) => one.length > 0
			);
			const { operationId } = node.value;
			return [
				{
					document,
					method: method.toUpperCase(),
					template,
					id: typeof operationId === 'string' ? operationId : '',
					node,
					path,
					shared: items(inside(path, 'parameters')),
					prefixes: nearest ?? ['']
				}
			];
		});
	});
}

/** Paths whose references lead nowhere, and why. */
export const lostPaths = (document: OpenapiDocument): { template: string; error: unknown }[] =>
	members(inside(document.root, 'paths')).flatMap(([template, given]) => {
		try {
			document.follow(given);
			return [];
		} catch (error) {
			return [{ template, error }];
		}
	});

const literal = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
/**
 * The pattern of a route; a value of a path holds no slash. Several values in one part could be told apart in very many ways:
 * those are matched in linear time.
 */
function patternFor(route: string, value: string): { test(path: string): boolean; valuesIn(path: string): string[] } {
	const source = `^${route
		.split(/\{[^{}]*\}/)
		.map(literal)
		.join(value)}$`;
	const crowded = /\}[^/]*\{/.test(route);
	if (crowded) {
		const linear = compilePattern(source);
		return {
			test: (path) => linear.test(path),
			valuesIn: (path) => linear.exec(path)?.groups.slice(1).map(String) ?? []
		};
	}
	const pattern = new RegExp(source);
	return { test: (path) => pattern.test(path), valuesIn: (path) => pattern.exec(path)?.slice(1) ?? [] };
}

interface PathPattern {
	test(path: string): boolean;
	/** What stands between the parameters. */
	literals: string;
}
const patterns = new WeakMap<OpenapiOperation, PathPattern>();
function patternOf(operation: OpenapiOperation): PathPattern {
	let made = patterns.get(operation);
	if (!made) {
		const route = routeOf(operation.template);
		made = { test: patternFor(route, '[^/]+').test, literals: route.replace(/\{[^{}]*\}/g, '') };
		patterns.set(operation, made);
	}
	return made;
}

const captures = new WeakMap<OpenapiOperation, { names: string[]; valuesIn(path: string): string[] }>();
/** The values of a template in a path that fits it, decoded; of a name that stands there twice the last one. */
export function pathValues(operation: OpenapiOperation, path: string, base: string): Record<string, string> {
	let kept = captures.get(operation);
	if (!kept) {
		const route = routeOf(operation.template);
		const names = [...route.matchAll(/\{([^{}]*)\}/g)].map(([, name = '']) => name);
		captures.set(operation, (kept = { names, valuesIn: patternFor(route, '([^/]+)').valuesIn }));
	}
	for (const prefix of [base, ...operation.prefixes, '']) {
		// what is longer than any address is matched by nobody
		if (!path.startsWith(prefix) || path.length >= 8192) continue;
		const found = kept.valuesIn(path.slice(prefix.length));
		if (found.length > 0)
			return Object.fromEntries(kept.names.map((name, index) => [name, unescapeAddress(found[index]!)]));
	}
	return {};
}

/** What a call is looked for by: its method, the path of its address, and that of its connection's base. */
export interface CallPlace {
	method: string;
	path: string;
	base: string;
	/** What tells operations of one method and path apart, where it is known. */
	carried?: Carried;
}

/** Where operations are looked for: those whose paths have so many parts and begin with the same one, or with a parameter. */
interface PathIndex {
	prefixes: string[];
	byShape: Map<string, number[]>;
}
const indexes = new WeakMap<OpenapiOperation[], PathIndex>();
const shapeOf = (path: string, first: string): string => `${path.split('/').length} ${first}`;
const firstPart = (path: string): string => path.split('/', 2)[1] ?? '';

function indexOf(operations: OpenapiOperation[]): PathIndex {
	let index = indexes.get(operations);
	if (index) return index;
	index = { prefixes: [...new Set(operations.flatMap(({ prefixes }) => prefixes))], byShape: new Map() };
	for (const [at, { template }] of operations.entries()) {
		const route = routeOf(template);
		const first = firstPart(route);
		const shape = shapeOf(route, first.includes('{') ? '{}' : first);
		index.byShape.set(shape, [...(index.byShape.get(shape) ?? []), at]);
	}
	indexes.set(operations, index);
	return index;
}

/** Operations at the path of a call, whatever their method, the most concrete first (OpenAPI 3.1 section 4.8.8.2). */
export function operationsAt(operations: OpenapiOperation[], { path, base }: CallPlace): OpenapiOperation[] {
	const { prefixes, byShape } = indexOf(operations);
	/** What is left of the path behind each prefix that it has. */
	const rests = new Map<string, string>();
	const candidates = new Set<number>();
	for (const prefix of new Set([...prefixes, base])) {
		if (prefix && !path.startsWith(`${prefix}/`)) continue;
		const rest = decodedPath(path.slice(prefix.length));
		rests.set(prefix, rest);
		// a template may be written as it is called
		for (const first of [firstPart(rest), '{}'])
			for (const at of byShape.get(shapeOf(rest, first)) ?? []) candidates.add(at);
	}
	const found: { operation: OpenapiOperation; weight: number }[] = [];
	for (const at of [...candidates].sort((a, b) => a - b)) {
		const operation = operations[at]!;
		const { test, literals } = patternOf(operation);
		for (const prefix of new Set([...operation.prefixes, base])) {
			const rest = rests.get(prefix);
			if (rest === undefined || !test(rest)) continue;
			const exact = rest === routeOf(operation.template);
			found.push({ operation, weight: (exact ? 1e6 : 0) + literals.length + prefix.length });
			break;
		}
	}
	return found.sort((a, b) => b.weight - a.weight).map(({ operation }) => operation);
}

/** The operation that a call is one of; undefined where there is none. */
export const operationAt = (operations: OpenapiOperation[], place: CallPlace): OpenapiOperation | undefined =>
	variantOf(
		operationsAt(operations, place).filter(({ method }) => method === place.method),
		place.carried
	);

/** A path whose parts are decoded, slashes inside of them left as they are. */
const decodedPath = (path: string): string =>
	path
		.split('/')
		.map((part) => unescapeAddress(part).replace(/\//g, '%2F'))
		.join('/');

/** An operation in words: `POST /bookings`. */
export const nameOf = ({ method, template }: OpenapiOperation): string => `${method} ${template}`;
