import type { Workspace } from '../project/index.ts';
import type { Json, JsonObject } from '../model/json.ts';
import type { DefinitionPlan } from '../model/definition-plan.ts';
import { isObject, parseJsonPlainly } from '../model/json.ts';
import { setIn } from '../model/path.ts';
import { parseSoap } from './spec.ts';
import { compareDefinitions } from './compare.ts';
import { HeronError } from '../errors.ts';
import { mainsAmong, type GivenFile } from './gather.ts';
import { modelOf } from './model.ts';
import { readable, sampleValues } from './sample.ts';
import { utf8 } from '../values/index.ts';
import { xmlFileText } from './shelf.ts';
import { readDefinition, type Definition, type DefinitionProblem, type SoapOperation } from './wsdl.ts';

/** `RecordPassage` as an id: record-passage. */
export const idOf = (name: string): string =>
	name
		.replace(/([a-z\d])([A-Z])/g, '$1-$2')
		.replace(/([A-Z]+)([A-Z][a-z])/g, '$1-$2')
		.toLowerCase()
		.replace(/[^a-z\d_.-]+/g, '-')
		.replace(/^[^a-z\d_]+|-+$/g, '') || 'operation';

/** A name for files out of any text. */
export const nameFrom = (text: string): string =>
	text
		.replace(/^.*[\\/]/, '')
		.replace(/\.(wsdl|xml|zip|json|ya?ml)$/i, '')
		.toLowerCase()
		.replace(/[^a-z\d-]+/g, '-')
		.replace(/^-+|-+$/g, '') || 'service';

interface Given {
	name: string;
	file: string;
	files: GivenFile[];
	definition: Definition;
	/** What stood at the same place before. */
	before?: Definition | undefined;
	workspace: Workspace;
	/** The collection's document as it is, when there is one. */
	collection?: Json | undefined;
	/** The value of a document of the project. */
	valueOf(path: string): Json | undefined;
	/** The connection that calls go over; empty for one that fits, or a new one. */
	connection: string;
}

/** An address that can be called over HTTP; bindings to other transports have others. */
const httpUrl = (address: string): URL | undefined => {
	const url = URL.canParse(address) ? new URL(address) : undefined;
	return url && /^https?:$/.test(url.protocol) ? url : undefined;
};
const originOf = (address: string): string => httpUrl(address)?.origin ?? '';

/** The steps of a project that call an operation. */
export function stepsOf(workspace: Workspace, key: string, version: string): string[] {
	const out: string[] = [];
	for (const collection of workspace.collections.values())
		for (const scenario of collection.scenarios)
			for (const step of scenario.steps) {
				const soap = step.send?.body?.kind === 'soap' ? parseSoap(step.send.body.value) : undefined;
				if (soap?.operation === key && (!soap.version || soap.version === version))
					out.push(`${collection.name}/${scenario.id}/${step.id}`);
			}
	return out;
}

/** Steps of other collections that mean another definition, and would be taken for calls of this one. */
function boundBy({
	name,
	file,
	definition,
	workspace,
	valueOf
}: Given): { path: string; value: Json; steps: string[] }[] {
	const own = new Set(definition.operations.flatMap(({ key, name: plain }) => [key, plain]));
	const out: ReturnType<typeof boundBy> = [];
	for (const collection of workspace.collections.values()) {
		if (collection.name === name) continue;
		const path = `collections/${collection.name}.yaml`;
		let value = valueOf(path);
		const steps: string[] = [];
		collection.scenarios.forEach(({ id, steps: all }, at) =>
			all.forEach((step, index) => {
				const soap = step.send?.body?.kind === 'soap' ? parseSoap(step.send.body.value) : undefined;
				if (!soap || soap.definition || !own.has(soap.operation) || value === undefined) return;
				const [meant] = workspace.shelf.knowing(soap.operation, soap.version);
				if (!meant || meant.file === file) return;
				const place = ['scenarios', at, 'steps', index, 'body', 'soap', 'definition'];
				value = setIn(value, place, meant.file.replace(/^definitions\//, ''));
				steps.push(`${collection.name}/${id}/${step.id}`);
			})
		);
		if (steps.length > 0) out.push({ path, value: value!, steps });
	}
	return out;
}

/**
 * Makes a collection of a definition: a scenario for each operation, with the least that it takes and checks that there is
 * no fault and that the reply fits. What a collection holds already stays as it is; operations that no step calls are added.
 */
export function planDefinition(given: Given): DefinitionPlan {
	const { name, definition, before, workspace } = given;
	const old = isObject(given.collection) ? (given.collection as JsonObject) : undefined;
	const scenarios = Array.isArray(old?.scenarios) ? (old.scenarios as Json[]) : [];
	// of one operation in several versions the first is called: the others are the same but for their envelope
	const first = definition.operations.filter(
		(one, index, all) => all.findIndex(({ key }) => key === one.key) === index
	);
	const [main] = first;
	const origin = originOf(main?.address ?? '') || 'http://127.0.0.1';
	// what another definition calls so too has to be told apart
	const others = workspace.shelf
		.all()
		.flatMap((one) => (one.file === given.file ? [] : (one.definition?.operations ?? [])));
	const elsewhere = new Set(others.map(({ key }) => key));
	let connection = given.connection || (typeof old?.connection === 'string' ? old.connection : '');
	let made: DefinitionPlan['writes'][number] | undefined;
	if (!connection) {
		const fits = [...workspace.connections.values()].find(
			({ base }) => originOf(base) === origin && new URL(base).pathname === '/'
		);
		connection = fits?.name ?? name;
		if (!fits && !workspace.connections.has(name))
			made = { path: `connections/${name}.yaml`, value: { heron: 1, title: main?.service ?? name, base: origin } };
	}
	const known = new Set(scenarios.map((one) => (isObject(one) ? String(one.id) : '')));
	const added: string[] = [];
	const kept: string[] = [];
	const fresh: Json[] = [];
	const notes: DefinitionProblem[] = [];
	for (const operation of first) {
		const called = [
			...new Set(definition.operations.filter(({ key }) => key === operation.key).map(({ version }) => version))
		];
		if (
			called.some((version) => stepsOf(workspace, operation.key, version).some((path) => path.startsWith(`${name}/`)))
		) {
			kept.push(operation.key);
			continue;
		}
		let id = idOf(operation.name);
		const alone = !known.has(id);
		if (!alone) id = idOf(`${operation.service}-${operation.name}`);
		for (let n = 2; known.has(id); n++) id = `${idOf(operation.name)}-${n}`;
		known.add(id);
		added.push(id);
		fresh.push(
			scenarioOf(
				operation,
				id,
				alone ? operation.name : operation.key,
				definition,
				origin,
				elsewhere.has(operation.key),
				(message) => void notes.push({ file: definition.file, line: 1, message })
			)
		);
	}
	const value: JsonObject = {
		...(old ?? { heron: 1, title: main?.service ?? name, connection }),
		scenarios: [...scenarios, ...fresh]
	};
	const bound = boundBy(given);
	return {
		name,
		file: given.file,
		files: given.files,
		writes: [
			...(made ? [made] : []),
			...(fresh.length > 0 || !old ? [{ path: `collections/${name}.yaml`, value }] : []),
			...bound.map(({ path, value }) => ({ path, value }))
		],
		made: made ? [made.path] : [],
		collects: true,
		bound: bound.flatMap(({ steps }) => steps),
		offers: [],
		added,
		kept,
		operations: definition.operations.map(({ key, version, doc, wants }) => ({ key, version, doc, wants })),
		changes: before
			? compareDefinitions(before, definition).map((one) => ({
					...one,
					steps: stepsOf(workspace, one.key, one.version)
				}))
			: [],
		missing: definition.missing,
		problems: [...definition.problems, ...notes]
	};
}

function scenarioOf(
	operation: SoapOperation,
	id: string,
	title: string,
	definition: Definition,
	origin: string,
	ambiguous: boolean,
	tell: (message: string) => void
): JsonObject {
	const { address, key, version, name, doc } = operation;
	const { values, headers, stopped } = sampleValues(modelOf(definition, operation), 'minimal');
	if (stopped) tell(`${key}: ${stopped}`);
	const target =
		originOf(address) && originOf(address) !== origin
			? address
			: `${httpUrl(address)?.pathname ?? '/'}${httpUrl(address)?.search ?? ''}`;
	return {
		id,
		title,
		steps: [
			{
				id: 'call',
				title: doc && doc.length <= 80 ? doc : name,
				send: `POST ${target}`,
				body: {
					soap: {
						operation: key,
						version,
						...(ambiguous ? { definition: definition.file.replace(/^definitions\//, '') } : {}),
						values: readable(values),
						...(headers ? { headers } : {})
					}
				},
				checks: [{ fault: 'code', present: false }, { contract: true }]
			}
		]
	};
}

/** The file beside a definition that says where it is from. */
export const SOURCE_FILE = 'source.json';

export const sourceOf = (address: string, connection: string): Uint8Array =>
	// who somebody is does not belong into a file
	utf8(
		`${JSON.stringify({ address: address.replace(/\/\/[^/@]*@/, '//'), ...(connection ? { connection } : {}) }, null, '\t')}\n`
	);

/** Where a definition was fetched from; undefined when that is not known. */
export function readSource(bytes: Uint8Array | undefined): { address: string; connection: string } | undefined {
	try {
		const value: unknown = bytes && parseJsonPlainly(xmlFileText(bytes));
		if (!isObject(value) || typeof value.address !== 'string') return undefined;
		return { address: value.address, connection: typeof value.connection === 'string' ? value.connection : '' };
	} catch {
		return undefined;
	}
}

/** What is to be imported. Paths of files are relative to each other. */
export interface ImportOrder {
	/** Of the folder below definitions/, and of the collection when there is one definition. */
	name: string;
	files: GivenFile[];
	workspace: Workspace;
	/** Files of the project as they are. */
	readFile(path: string): Uint8Array | undefined;
	/** The value of a document of the project; undefined when it is not there. */
	valueOf(path: string): Json | undefined;
	connection: string;
	/** Where they were fetched from; kept beside them, so that they can be read again. */
	address?: string;
	/** Keys of the scenarios that are made; left out: those that suggest themselves. */
	choose?: readonly string[];
}

/** Plans for all WSDL among files that were given. */
export function planImport(given: ImportOrder): DefinitionPlan[] {
	const { name, workspace, readFile, valueOf, connection } = given;
	const folder = `definitions/${name}/`;
	const files = given.files.map(({ path, bytes }) => ({
		path: path.startsWith(folder) ? path : folder + path.replace(/^\.?\/+/, ''),
		bytes
	}));
	const byPath = new Map(files.map((file) => [file.path, file.bytes]));
	const fresh = (path: string) => byPath.get(path) ?? readFile(path);
	const mains = mainsAmong(files.map(({ path, bytes }) => ({ path, text: xmlFileText(bytes) })));
	if (mains.length === 0) {
		const [first] = files;
		// a definition under another ending is one all the same
		if (first && files.length === 1) {
			const path = `${first.path.replace(/\.\w+$/, '')}.wsdl`;
			byPath.set(path, first.bytes);
			files[0] = { path, bytes: first.bytes };
			mains.push(path);
		} else throw new HeronError('definition.none', { detail: 'no file ends in .wsdl' });
	}
	if (given.address) files.push({ path: folder + SOURCE_FILE, bytes: sourceOf(given.address, connection) });
	return mains.map((file, index) => {
		const own = mains.length === 1 ? name : nameFrom(file);
		const read = (from: (path: string) => Uint8Array | undefined) => {
			const text = (path: string) => {
				const bytes = from(path);
				return bytes && xmlFileText(bytes);
			};
			return readDefinition(file, text);
		};
		let before: Definition | undefined;
		try {
			before = readFile(file) ? read(readFile) : undefined;
		} catch {
			// what could not be read before has nothing to be compared with
		}
		const collection = valueOf(`collections/${own}.yaml`);
		const definition = read(fresh);
		return planDefinition({
			...{ name: own, file, definition, before, workspace, collection, connection, valueOf },
			files: index === 0 ? files : []
		});
	});
}
