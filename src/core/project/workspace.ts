import type { Problem } from '../errors.ts';
import { messageOf, type MessageCode } from '../messages.ts';
import type { Collection } from '../documents/collection.ts';
import { stoodIn } from '../documents/connection.ts';
import { PLAIN_FOLDERS } from '../documents/kinds.ts';
import { createOpenapiRegistry } from '../openapi/index.ts';
import { createWsdlRegistry } from '../soap/index.ts';
import { bytesToHex, decodeText, digestOf, utf8 } from '../values/index.ts';
import { definitionWarnings } from './definition-warnings.ts';
import { loadDocument, type LoadedDocument } from './document.ts';
import { idOf } from './ids.ts';
import { callsOf, createLinks, type Links } from './links.ts';
import {
	collectionOf,
	connectionOf,
	credentialOf,
	environmentOf,
	localOf,
	projectOf,
	quarantineOf,
	standInOf,
	suiteOf
} from './parsed.ts';
import { collectionRules, projectRules } from './rules/index.ts';
import { namesOf, type Looked, type Names, type Tell } from './rules/rule.ts';
import { schemaProblem } from './schemas.ts';
import type { Workspace } from './shape.ts';

const decoded = new WeakMap<Uint8Array, string>();
/** The text of a file in UTF-8; kept as long as its bytes are. */
function textOfFile(bytes: Uint8Array | undefined): string | undefined {
	if (!bytes) return undefined;
	let text = decoded.get(bytes);
	if (text === undefined) decoded.set(bytes, (text = decodeText(bytes).text));
	return text;
}

type ReadFile = (path: string) => Uint8Array | undefined;

interface Judged {
	/** What it depended on. */
	state: string;
	problems: Problem[];
	warnings: Problem[];
}
// as long as the data of a collection is there: a save changes one of many
const judged = new WeakMap<Collection, Judged>();

/**
 * Puts documents together to a workspace and looks at what they say of each other. What was looked at before is looked at
 * again only where it, or what it depends on, is another one: documents are told apart by their `value` and `placeOf`.
 * @param readFile the bytes of one of the files; definitions are read from it
 */
export function createWorkspace(
	given: LoadedDocument[],
	files: ReadonlySet<string>,
	readFile: ReadFile = () => undefined
): Workspace {
	// the same order wherever they come from, and whichever was written last
	const documents = given.toSorted((a, b) => (a.path < b.path ? -1 : a.path > b.path ? 1 : 0));
	const definitions = definitionsState(files, readFile);
	let warnings: Problem[] | undefined;
	const workspace: Workspace = {
		project: projectOf('', null),
		connections: new Map(),
		credentials: new Map(),
		environments: new Map(),
		collections: new Map(),
		suites: new Map(),
		standIns: new Map(),
		quarantine: quarantineOf('', null),
		local: localOf('', null),
		wsdls: createWsdlRegistry(files, readFile),
		openapis: createOpenapiRegistry(files, (path) => textOfFile(readFile(path))),
		problems: documents.flatMap((document) => document.problems),
		warnings: documents.flatMap((document) => document.warnings ?? []),
		definitionWarnings: () => (warnings ??= definitionWarnings(workspace, documents, definitions))
	};
	for (const document of documents) enter(workspace, document);
	standInFor(workspace);
	inOrder(workspace);
	const places = new Map(documents.map((document) => [document.path, document.placeOf]));
	const telling =
		(list: Problem[]): Tell =>
		(file, at, code, values) => {
			list.push({ code, message: messageOf(code, values), file, path: at, ...(places.get(file)?.(at) ?? {}) });
		};
	const looked: Looked = {
		...{ workspace, files, links: createLinks(workspace.collections), names: namesOf(workspace) },
		wrong: telling(workspace.problems),
		warn: telling(workspace.warnings)
	};
	for (const rule of projectRules) rule.look(looked);
	for (const problem of schemaProblems(files, readFile)) workspace.problems.push(problem);
	const around = `${stateOf(looked.names, files)} ${definitions}`;
	for (const collection of workspace.collections.values()) {
		const file = `collections/${collection.name}.yaml`;
		const place = places.get(file);
		const state = `${around} ${place ? idOf(place) : ''} ${linksState(collection, workspace, looked.links)}`;
		const found = judgedAs(collection, state, () => {
			const [wrong, doubtful]: [Problem[], Problem[]] = [[], []];
			const own = { ...looked, wrong: telling(wrong), warn: telling(doubtful) };
			for (const rule of collectionRules) rule.look(collection, file, own);
			return { problems: wrong, warnings: doubtful };
		});
		for (const problem of found.problems) workspace.problems.push(problem);
		for (const warning of found.warnings) workspace.warnings.push(warning);
	}
	return workspace;
}

/** What is wrong with the schemas among the files. */
const schemaProblems = (files: ReadonlySet<string>, readFile: ReadFile): Problem[] =>
	[...files].flatMap((path) => {
		const bytes = path.startsWith('schemas/') ? readFile(path) : undefined;
		return (bytes && schemaProblem(path, bytes)) ?? [];
	});

/** Puts a document where its kind belongs. */
function enter(workspace: Workspace, { kind, name, value }: LoadedDocument): void {
	switch (kind.name) {
		case 'project':
			workspace.project = projectOf(name, value);
			break;
		case 'connection':
			workspace.connections.set(name, connectionOf(name, value));
			break;
		case 'credential':
			workspace.credentials.set(name, credentialOf(name, value));
			break;
		case 'environment':
			workspace.environments.set(name, environmentOf(name, value));
			break;
		case 'collection':
			workspace.collections.set(name, collectionOf(name, value));
			break;
		case 'local':
			workspace.local = localOf(name, value);
			break;
		case 'quarantine':
			workspace.quarantine = quarantineOf(name, value);
			break;
		case 'suite':
			workspace.suites.set(name, suiteOf(name, value));
			break;
		case 'stand-in':
			workspace.standIns.set(name, standInOf(name, value));
	}
}

/** Puts collections in the order that the project says; all others stay behind them as they were. */
function inOrder(workspace: Workspace): void {
	const { order } = workspace.project;
	if (order.length === 0) return;
	const rest = new Map(workspace.collections);
	workspace.collections.clear();
	for (const name of order) {
		const found = rest.get(name);
		if (found && rest.delete(name)) workspace.collections.set(name, found);
	}
	for (const [name, collection] of rest) workspace.collections.set(name, collection);
}

/** Connections that stand-ins answer for in an environment lead there. */
function standInFor({ connections, environments }: Workspace): void {
	const by = new Map<string, Map<string, string>>();
	for (const { name, standIns } of environments.values())
		for (const [connection, standIn] of Object.entries(standIns))
			by.set(connection, (by.get(connection) ?? new Map<string, string>()).set(name, standIn));
	for (const [name, there] of by) {
		const found = connections.get(name);
		if (found) connections.set(name, stoodIn(found, there));
	}
}

function judgedAs(collection: Collection, state: string, judge: () => Omit<Judged, 'state'>): Judged {
	const kept = judged.get(collection);
	if (kept?.state === state) return kept;
	const made = { state, ...judge() };
	judged.set(collection, made);
	return made;
}

/** The names that collections may speak of, and all files, in short. */
const stateOf = ({ connections, credentials, environments }: Names, files: ReadonlySet<string>): string =>
	hash([connections.join('\n'), credentials.join('\n'), environments.join('\n'), ...files].join('\0'));

const definitionsState = (files: ReadonlySet<string>, readFile: ReadFile): string =>
	[...files]
		.filter((path) => path.startsWith('definitions/'))
		.map((path) => {
			const bytes = readFile(path);
			return bytes ? idOf(bytes) : 0;
		})
		.join(',');

/** Other collections that a collection calls into, who calls into it, and what it names in vain. */
function linksState(collection: Collection, { collections }: Workspace, links: Links): string {
	const called = links.calledOf(collection.name);
	const calls = callsOf(collection);
	if (calls.length === 0) return called.join(' ');
	const reached = links.reached(collection.name).map((name) => {
		const other = collections.get(name);
		return `${name}:${other ? idOf(other) : ''}`;
	});
	const lost = calls.some((target) => !links.called(collection.name, target));
	// what is like a name that is not there may be any scenario's
	return [...called, ...reached, ...(lost ? [hash(links.names(collection.name).join('\n'))] : [])].join(' ');
}

/** A text in short, for telling states apart. */
const hash = (text: string): string => bytesToHex(digestOf('sha256', utf8(text)));

/** A project that was put together, and its documents by path. */
export interface LoadedProject {
	workspace: Workspace;
	documents: Map<string, LoadedDocument>;
}

/** Reads all files of a project: path → text for documents, and the paths of all files there are. */
export function loadProject(
	sources: { path: string; text: string }[],
	files: ReadonlySet<string>,
	readFile?: ReadFile
): LoadedProject {
	const documents = new Map<string, LoadedDocument>();
	const strange: Problem[] = [];
	for (const { path, text } of sources) {
		const document = loadDocument(path, text);
		if (document) documents.set(path, document);
		else if (/\.ya?ml$/.test(path) && !PLAIN_FOLDERS.some((folder) => path.startsWith(`${folder}/`))) {
			const code: MessageCode = 'file.kind';
			const folders = 'connections, credentials, environments, collections, suites, stand-ins';
			strange.push({ code, message: messageOf(code, { folders }), file: path, path: [] });
		}
	}
	const workspace = createWorkspace([...documents.values()], files, readFile);
	for (const warning of strange) workspace.warnings.push(warning);
	const order = (a: Problem, b: Problem) => a.file.localeCompare(b.file) || (a.line ?? 0) - (b.line ?? 0);
	workspace.problems.sort(order);
	return { workspace, documents };
}
