import { HeronError } from '../errors.ts';
import type { DefinitionPlan } from '../model/definition-plan.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { setIn } from '../model/path.ts';
import type { Workspace } from '../project/index.ts';
import {
	compareDefinitions,
	idOf,
	mainsAmong,
	nameFrom,
	parseSoap,
	readDefinition,
	SOURCE_FILE,
	sourceOf,
	twinsAmong,
	xmlFileText,
	type Definition,
	type DefinitionProblem,
	type GivenFile,
	type SoapOperation
} from '../soap/index.ts';
import type { ImportOrder } from '../imports/index.ts';
import { httpUrl, plainMaking, soapMaking, type Making } from './soap-makings.ts';

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
	/** Where it was fetched from. */
	address?: string | undefined;
	/** Keys of the scenarios that are made; left out: those that suggest themselves. */
	choose?: readonly string[] | undefined;
}

const originOf = (address: string): string => httpUrl(address)?.origin ?? '';

/** The steps of a project that call an operation. */
function stepsOf(workspace: Workspace, key: string, version: string): string[] {
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
				const [meant] = workspace.wsdls.knowing(soap.operation, soap.version);
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

/** Where calls go: the connection, the origin that is its base, and whether the definition names another host. */
interface Through {
	connection: string;
	/** The origin in the definition that the connection stands for. */
	origin: string;
	made?: DefinitionPlan['writes'][number];
	note?: string;
}

function throughOf(given: Given, old: JsonObject | undefined): Through {
	const { name, definition, workspace, address = '' } = given;
	const [main] = definition.operations;
	const said = main?.address || definition.plain[0]?.address || '';
	const origin = originOf(said) || 'http://127.0.0.1';
	const connection = given.connection || (typeof old?.connection === 'string' ? old.connection : '');
	if (connection) return { connection, origin };
	// a service tells its own address as it knows it: behind a gateway that is another one than it was reached by
	const fetched = originOf(address);
	const base = fetched && fetched !== origin ? fetched : origin;
	const fits = [...workspace.connections.values()].find(
		(one) => originOf(one.base) === base && new URL(one.base).pathname === '/'
	);
	const note =
		base === origin || !originOf(said)
			? undefined
			: `the definition names ${origin}, and it was fetched from ${base}: calls go to ${base}; the base of the connection says otherwise`;
	const title = main?.service ?? definition.plain[0]?.service ?? name;
	const made =
		!fits && !workspace.connections.has(name)
			? { path: `connections/${name}.yaml`, value: { heron: 1, title, base } }
			: undefined;
	return { connection: fits?.name ?? name, origin, ...(made ? { made } : {}), ...(note ? { note } : {}) };
}

/**
 * Makes a collection of a definition: a scenario for each operation that is chosen, with a sample of what it takes and
 * checks that there is no fault and that the reply fits. What a collection holds already stays as it is.
 */
function planDefinition(given: Given): DefinitionPlan {
	const { name, definition, before, workspace } = given;
	const old = isObject(given.collection) ? (given.collection as JsonObject) : undefined;
	const scenarios = Array.isArray(old?.scenarios) ? (old.scenarios as Json[]) : [];
	const through = throughOf(given, old);
	// what another definition calls so too has to be told apart
	const others = workspace.wsdls
		.all()
		.flatMap((one) => (one.file === given.file ? [] : (one.definition?.operations ?? [])));
	const elsewhere = new Set(others.map(({ key }) => key));
	const known = new Set(scenarios.map((one) => (isObject(one) ? String(one.id) : '')));
	const notes: DefinitionProblem[] = [];
	const note = (message: string) => void notes.push({ file: definition.file, line: 1, message });
	if (through.note) note(through.note);
	const calls = (one: SoapOperation) =>
		stepsOf(workspace, one.key, one.version).some((path) => path.startsWith(`${name}/`));
	const kept = [...new Set(definition.operations.filter(calls).map(({ key }) => key))];
	const makings = [
		...definition.operations
			.filter((one) => !calls(one))
			.map((operation) => soapMaking(operation, definition, through.origin, elsewhere.has(operation.key), note)),
		...definition.plain.map((operation) => plainMaking(operation, definition, through.origin, note))
	];
	chooseAmong(makings, given, kept, known);
	const { fresh, added } = scenariosOf(makings, known);
	const { connection, made } = through;
	const title = definition.operations[0]?.service ?? definition.plain[0]?.service ?? '';
	const value: JsonObject = {
		...(old ?? { heron: 1, title: title || name, connection }),
		scenarios: [...scenarios, ...fresh]
	};
	const bound = boundBy(given);
	return {
		name,
		title,
		file: given.file,
		files: given.files,
		writes: [
			...(made && (fresh.length > 0 || !old) ? [made] : []),
			...(fresh.length > 0 || !old ? [{ path: `collections/${name}.yaml`, value }] : []),
			...bound.map(({ path, value }) => ({ path, value }))
		],
		made: made ? [made.path] : [],
		collects: true,
		bound: bound.flatMap(({ steps }) => steps),
		offers: makings.map(({ offer }) => offer),
		added,
		kept,
		operations: definition.operations.map(({ key, version, doc, wants }) => ({ key, version, doc, wants })),
		changes: before
			? compareDefinitions(before, definition).map((one) => ({
					...one,
					steps: stepsOf(workspace, one.key, one.version)
				}))
			: [],
		fixes: [],
		missing: definition.missing,
		problems: [...definition.problems, ...notes]
	};
}

/**
 * Gives each offer a key of its own, and says which of them are made.
 * @param kept operations that are called already @param known ids of scenarios that are there
 */
function chooseAmong(
	makings: Making[],
	{ definition, choose }: Given,
	kept: string[],
	known: ReadonlySet<string>
): void {
	const sameAs = twinsAmong(definition.operations);
	const keys = new Set<string>();
	for (const { offer } of makings) {
		const { key } = offer;
		for (let n = 2; keys.has(offer.key); n++) offer.key = `${key} ${n}`;
		keys.add(offer.key);
	}
	const soapKeys = new Set(definition.operations.map(({ key }) => key));
	const done = new Set(kept);
	for (const { offer, key, plain, operation } of makings) {
		const twin = operation && sameAs.get(operation);
		if (twin) offer.sameAs = twin;
		// of one operation in several versions the first is called: the others are the same but for their envelope
		const suggests = !twin && !done.has(key) && !(plain && (soapKeys.has(key) || known.has(offer.id)));
		offer.chosen = choose ? choose.includes(offer.key) : suggests;
		done.add(key);
	}
}

/** The scenarios that are chosen, each with an id that none has. @param known ids of scenarios that are there */
function scenariosOf(makings: Making[], known: ReadonlySet<string>): { fresh: Json[]; added: string[] } {
	const taken = new Set(known);
	const added: string[] = [];
	const fresh = makings
		.filter(({ offer }) => offer.chosen)
		.map(({ offer, service, make }): Json => {
			let { id } = offer;
			const alone = !taken.has(id);
			if (!alone) id = idOf(`${service}-${offer.id}`);
			for (let n = 2; taken.has(id); n++) id = `${offer.id}-${n}`;
			taken.add(id);
			added.push(id);
			return make(id, alone);
		});
	return { fresh, added };
}

/** Plans for all WSDL among files that were given. */
export function planWsdls(given: ImportOrder): DefinitionPlan[] {
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
			...{ address: given.address, choose: given.choose },
			files: index === 0 ? files : []
		});
	});
}
