import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { fileName } from '../model/name.ts';
import { serversOf, type OpenapiDocument, type Server } from '../openapi/index.ts';
import { baseOf, type Workspace } from '../project/index.ts';

/** What a definition is made into, besides its scenarios. */
export interface Made {
	path: string;
	value: Json;
}

/** Names that environments get: variables with values, and secrets. */
export interface Wanted {
	variables: JsonObject;
	secrets: string[];
}

/** So many servers become connections. */
const MOST_SERVERS = 20;

/** A text as the name of a variable. */
export const camel = (text: string): string =>
	fileName(text).replace(/-(\w)/g, (_, letter: string) => letter.toUpperCase()) || 'service';
const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

/** The address of a server with its variables at their defaults; undefined when it says no host. */
function whereIs({ url, variables }: Server, address: string): URL | undefined {
	const plain = variables.reduce((text, { name, value }) => text.replaceAll(`{${name}}`, () => value), url);
	if (URL.canParse(plain)) return new URL(plain);
	return address && URL.canParse(plain, address) ? new URL(plain, address) : undefined;
}
const pathOf = (url: string): string =>
	URL.canParse(url, 'http://here.invalid/') ? new URL(url, 'http://here.invalid/').pathname.replace(/\/+$/, '') : '';

/** The address of a server as a connection has it, its variables as those of the environment. */
function addressIn(
	{ url, variables }: Server,
	at: URL | undefined,
	workspace: Workspace,
	wanted: Wanted,
	name: string
): string {
	let base = url;
	for (const { name: hole, value } of variables) {
		const taken = [...workspace.environments.values()].some(
			(one) => Object.hasOwn(one.variables, camel(hole)) && String(one.variables[camel(hole)]) !== value
		);
		const variable = taken ? `${camel(name)}${capital(camel(hole))}` : camel(hole);
		base = base.replaceAll(`{${hole}}`, `{$env.${variable}}`);
		wanted.variables[variable] = value;
	}
	if (variables.length > 0 && /^(https?:\/\/|\{)/i.test(base)) return base;
	return at ? at.href.replace(/\/+$/, '') : `http://127.0.0.1${pathOf(url)}`;
}

/** Through which connection a definition is called, and what stands between its base and the paths of operations. */
export interface Through {
	connection: string;
	prefix: string;
	made: Made[];
	/** What is to be filled in, in words. */
	note: string;
}

/**
 * The connection for a definition: the one that is named, one that goes to the same place, or new ones for its servers.
 * @param address where the document came from; relative servers are meant from there
 */
export function connectionFor(
	document: OpenapiDocument,
	given: {
		name: string;
		file: string;
		connection: string;
		address: string;
		workspace: Workspace;
		wanted: Wanted;
		title: string;
	}
): Through {
	const { name, file, connection, address, workspace, wanted, title } = given;
	const servers = serversOf(document);
	const server: Server = servers[0] ?? { url: '/', description: '', variables: [] };
	const at = whereIs(server, address);
	const path = (at?.pathname ?? pathOf(server.url)).replace(/\/+$/, '');
	const behind = (base: string): string => {
		const own = pathOf(base);
		return path !== own && (own === '' || path.startsWith(`${own}/`)) ? path.slice(own.length) : '';
	};
	const known = [...workspace.connections.values()].map((one) => ({ name: one.name, base: baseOf(workspace, one) }));
	const chosen = known.find((one) => one.name === connection);
	if (connection) return { connection, prefix: behind(chosen?.base ?? ''), made: [], note: '' };
	const fits = known.filter(({ base }) =>
		at
			? URL.canParse(base) && new URL(base).origin === at.origin && `${path}/`.startsWith(`${pathOf(base)}/`)
			: path !== '' && pathOf(base) === path
	);
	// where the document says no host, only a single one can be meant
	const [best] = at ? fits.sort((a, b) => b.base.length - a.base.length) : fits.length === 1 ? fits : [];
	if (best) return { connection: best.name, prefix: behind(best.base), made: [], note: '' };
	const taken = new Set(workspace.connections.keys());
	const made = (servers.length > 0 ? servers : [server]).slice(0, MOST_SERVERS).map((one, index): Made => {
		const host = whereIs(one, address)?.hostname ?? '';
		const more = index === 0 ? '' : fileName(one.description).slice(0, 30) || fileName(host) || String(index + 1);
		let own = more ? `${name}-${more}` : name;
		for (let n = 2; taken.has(own); n++) own = `${more ? `${name}-${more}` : name}-${n}`;
		taken.add(own);
		const base = addressIn(one, whereIs(one, address), workspace, wanted, own);
		const words = one.description.length <= 60 ? one.description : '';
		return {
			path: `connections/${own}.yaml`,
			value: {
				heron: 1,
				title: words && servers.length > 1 ? `${title}: ${words}` : title,
				base,
				// another definition may know the same calls
				definition: file.replace(/^definitions\//, '')
			}
		};
	});
	const first = made[0]!.path.replace(/^connections\/|\.yaml$/g, '');
	const note = at ? '' : `it does not say on which host the service is: write that as base into ${made[0]!.path}`;
	return { connection: first, prefix: '', made, note };
}

/** The environments with what a definition wants, those that have it all left out. A project without any gets its first. */
export function environmentsWith(
	{ variables, secrets }: Wanted,
	workspace: Workspace,
	valueOf: (path: string) => Json | undefined
): Made[] {
	if (Object.keys(variables).length === 0 && secrets.length === 0) return [];
	if (workspace.environments.size === 0) {
		const name = workspace.project.environment || 'test';
		const made: Made[] = [
			{ path: `environments/${name}.yaml`, value: { heron: 1, title: capital(name), variables, secrets } }
		];
		const own = valueOf('heron.yaml');
		if (!workspace.project.environment && isObject(own))
			made.push({ path: 'heron.yaml', value: { ...(own as JsonObject), environment: name } });
		return made;
	}
	return [...workspace.environments.values()].flatMap((one): Made[] => {
		const path = `environments/${one.name}.yaml`;
		const own = valueOf(path);
		if (!isObject(own)) return [];
		const missing = Object.entries(variables).filter(
			([name]) => !Object.hasOwn(one.variables, name) && !Object.hasOwn(workspace.project.variables, name)
		);
		const added = [...new Set(secrets)].filter((name) => !one.secrets.includes(name));
		if (missing.length === 0 && added.length === 0) return [];
		const value = { ...(own as JsonObject) };
		if (missing.length > 0) value.variables = { ...one.variables, ...Object.fromEntries(missing) };
		if (added.length > 0) value.secrets = [...one.secrets, ...added];
		return [{ path, value }];
	});
}
