import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { inside, items, type Node } from './document.ts';
import type { OpenapiDocument } from './document.ts';
import type { OpenapiOperation } from './operations.ts';

/** Where a service is (OpenAPI 3.1 sections 4.8.5 and 4.8.6). */
export interface Server {
	/** As written, with `{name}` for its variables. */
	url: string;
	description: string;
	variables: { name: string; value: string; choices: string[] }[];
}

const text = (value: unknown): string => (typeof value === 'string' ? value : '');

function serverOf(value: Json): Server[] {
	if (!isObject(value) || typeof value.url !== 'string') return [];
	const given = isObject(value.variables) ? (value.variables as JsonObject) : {};
	const names = [...new Set([...value.url.matchAll(/\{([^{}]+)\}/g)].map(([, name = '']) => name))];
	return [
		{
			url: value.url,
			description: text(value.description),
			variables: names.map((name) => {
				const one = isObject(given[name]) ? (given[name] as JsonObject) : {};
				const choices = Array.isArray(one.enum) ? one.enum.map(String) : [];
				return { name, value: one.default === undefined ? (choices[0] ?? '') : String(one.default), choices };
			})
		}
	];
}

/** The servers of a document, one for each scheme in 2.0; none where it names none. */
export function serversOf(document: OpenapiDocument): Server[] {
	const { value } = document.root;
	if (document.version !== '2.0') return items(inside(document.root, 'servers')).flatMap((one) => serverOf(one.value));
	const schemes = Array.isArray(value.schemes) ? value.schemes.map(String).filter((one) => /^https?$/.test(one)) : [];
	const path = text(value.basePath);
	if (!text(value.host)) return path ? [{ url: path, description: '', variables: [] }] : [];
	return (schemes.length > 0 ? schemes : ['https']).map((scheme) => ({
		url: `${scheme}://${text(value.host)}${path}`,
		description: '',
		variables: []
	}));
}

/** The server that an operation or its path names for itself. */
function ownServer({ document, node, path }: OpenapiOperation): Server | undefined {
	if (document.version === '2.0') return undefined;
	for (const holder of [node, path])
		for (const one of items(inside(holder as Node<JsonObject>, 'servers'))) {
			const [server] = serverOf(one.value);
			if (server) return server;
		}
	return undefined;
}

/** Where an operation is that names a server of its own: a path behind the base, or a whole address. */
export function ownPlace(operation: OpenapiOperation, base: string): string | undefined {
	const server = ownServer(operation);
	if (!server) return undefined;
	const plain = server.variables.reduce(
		(text, { name, value }) => text.replaceAll(`{${name}}`, () => value),
		server.url
	);
	if (!URL.canParse(plain, base)) return undefined;
	const [own, here] = [new URL(plain, base), new URL(base)];
	const path = own.pathname.replace(/\/+$/, '');
	const above = here.pathname.replace(/\/+$/, '');
	const behind = own.origin === here.origin && `${path}/`.startsWith(`${above}/`);
	return behind ? path.slice(above.length) : `${own.origin}${path}`;
}
