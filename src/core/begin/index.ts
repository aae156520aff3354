import { writeJson } from '../model/json.ts';
import { HeronError } from '../errors.ts';
import { counted } from '../messages.ts';
import { looksLikeCurl, readCurl, stepOfCall, type FoundSecret, type MadeStep } from '../exchange/index.ts';
import { editYaml } from '../model/edit.ts';
import { fileName } from '../model/name.ts';

/** What somebody has at hand when a project begins. */
export interface Beginning {
	/** The name that people read; made of the address where it is empty. */
	title: string;
	/** What is called first: an address, a method and an address, or a command of curl. Empty for none. */
	call: string;
}

/** A project that begins: texts of its files, and where its first step is. */
export interface BegunProject {
	title: string;
	/** The name by which the title may go in addresses and folders. */
	name: string;
	files: { path: string; text: string }[];
	first?: { collection: string; scenario: string; step: string };
	/** Secrets of the first call, which do not stand in files. */
	secrets: FoundSecret[];
	/** What of the first call could not be carried over, in words. */
	notes: string[];
}

/** A first call in parts. */
export interface FirstCall {
	method: string;
	origin: string;
	/** With its query. */
	path: string;
	host: string;
	/** The machine itself. */
	local: boolean;
	/** What a command says beyond that. */
	made?: MadeStep;
}

const CALL = /^(?:([A-Za-z]+)\s+)?(\S+)$/;
const LOOPBACK = /^(localhost|127(\.\d+){3}|\[::1\])$/i;

/**
 * Reads what is typed as a first call: `host/path`, `http://host/path`, `POST http://host/path`, `curl …`.
 * @throws HeronError value.address, exchange.*
 */
export function readCall(text: string): FirstCall {
	const plain = text.trim();
	if (looksLikeCurl(plain)) return readCommand(plain);
	const [, method = 'GET', given = ''] = CALL.exec(plain) ?? [];
	const wrong = (address: string) => new HeronError('value.address', { address });
	if (!given || (/^[a-z]+$/i.test(given) && !LOOPBACK.test(given))) throw wrong(plain);
	const scheme = /^[a-z][a-z0-9+.-]*:\/\//i.exec(given)?.[0].toLowerCase();
	if (scheme && scheme !== 'http://' && scheme !== 'https://') throw wrong(given);
	const host = given.replace(/[/?#].*$/, '');
	// most of what listens on the machine itself speaks without TLS
	const assumed = scheme ? '' : LOOPBACK.test(host.replace(/:\d+$/, '')) ? 'http://' : 'https://';
	if (!URL.canParse(assumed + given)) throw wrong(given);
	const url = new URL(assumed + given);
	if (url.username || url.password) throw new HeronError('begin.password');
	return {
		method: method.toUpperCase(),
		origin: url.origin,
		path: `${url.pathname}${url.search}`,
		host: url.host,
		local: LOOPBACK.test(url.hostname)
	};
}

function readCommand(text: string): FirstCall {
	const [call, ...more] = readCurl(text);
	const url = URL.canParse(call!.url) ? new URL(call!.url) : undefined;
	if (!url || !/^https?:$/.test(url.protocol)) throw new HeronError('value.address', { address: call!.url });
	const made = stepOfCall(call!, {
		connections: [{ name: 'api', base: url.origin }],
		taken: new Set(),
		secrets: new Set()
	});
	if (more.length > 0)
		made.notes.push(
			`of ${counted(more.length + 1, 'call')} the first is taken: paste the command into the collection for all`
		);
	return {
		method: call!.method,
		origin: url.origin,
		path: `${url.pathname}${url.search}`,
		host: url.host,
		local: LOOPBACK.test(url.hostname),
		made
	};
}

/** A name for folders and addresses out of a title. */
export const projectName = (title: string): string => fileName(fileName(title).slice(0, 60)) || 'project';

/** A text as YAML writes it in one line. */
const scalar = (text: string): string =>
	/^[A-Za-z][\w ./-]*$/.test(text) && !/^(true|false|null|yes|no|on|off)$/i.test(text) && !/\s$/.test(text)
		? text
		: writeJson(text);

const projectFile = (title: string, environment: string): string => `heron: 1
title: ${scalar(title)}
environment: ${environment}
# values for every environment; {$env.NAME} stands for one of them
# variables: { season: summer }
`;
const environmentFile = (title: string, variables: string, secrets: readonly string[]): string => `heron: 1
title: ${title}
# what differs from one environment to the next; another one is a file beside this
variables:${variables}
# secrets are named here, and their values stay out of files
${secrets.length > 0 ? `secrets: [${secrets.join(', ')}]` : '# secrets: [clerkPassword]'}
`;

/**
 * The files of a new project: text for people, with comments that say what comes next.
 * @throws HeronError value.address, begin.password
 */
export function beginProject({ title: given, call: text }: Beginning): BegunProject {
	const call = text.trim() ? readCall(text) : undefined;
	const title = given.trim() || call?.host || 'New project';
	const environment = !call || call.local ? 'local' : 'test';
	const made = call?.made;
	const secrets = made?.secrets ?? [];
	const variables = call
		? [`\n  api: ${scalar(call.origin)}`, ...(made?.variables ?? []).map((name) => `\n  ${name}: ""`)].join('')
		: ' {}';
	const files = [
		{ path: 'heron.yaml', text: projectFile(title, environment) },
		{
			path: `environments/${environment}.yaml`,
			text: environmentFile(
				environment === 'local' ? 'Local' : 'Test',
				variables,
				secrets.map((one) => one.name)
			)
		}
	];
	const name = projectName(title);
	if (!call) return { title, name, files, secrets, notes: [] };
	const target = call.path.replace(/\{/g, '%7B').replace(/\}/g, '%7D');
	files.push(
		{
			path: 'connections/api.yaml',
			text: `heron: 1
title: ${scalar(call.host)}
base: "{$env.api}"
# who calls: a file in credentials/
# credential: clerk
`
		},
		...(made?.documents ?? []).map(({ path, value }) => ({ path, text: editYaml('', value) })),
		{
			path: 'collections/first.yaml',
			text: made
				? firstOf(made)
				: `heron: 1
title: First calls
connection: api
scenarios:
  - id: first
    title: First scenario
    steps:
      - id: call
        send: ${scalar(`${call.method} ${target}`)}
`
		}
	);
	return {
		...{ title, name, files, secrets, notes: made?.notes ?? [] },
		first: { collection: 'first', scenario: 'first', step: 'call' }
	};
}

/** The collection of a call that was given whole. */
const firstOf = ({ step }: MadeStep): string =>
	editYaml('', {
		...{ heron: 1, title: 'First calls', connection: 'api' },
		scenarios: [{ id: 'first', title: 'First scenario', steps: [{ id: 'call', ...step }] }]
	});

/** Whether an address seems to be that of a definition, and not of a call. */
export const seemsDefinition = (text: string): boolean => {
	const plain = text.trim();
	return (
		/^https?:\/\/\S+$/i.test(plain) &&
		/(\.wsdl|[?&](single)?wsdl(=\S*)?|(openapi|swagger|api-docs)[^/]*\.(json|ya?ml)|\/(openapi|api-docs|swagger)\/?(v\d+)?)$/i.test(
			plain.replace(/#.*$/, '')
		)
	);
};
