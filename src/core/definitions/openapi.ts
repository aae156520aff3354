import { textOf as textIn } from '../errors.ts';
import type { DefinitionPlan } from '../model/definition-plan.ts';
import { isObject, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { getIn, setIn } from '../model/path.ts';
import { FILE_LIMIT, parseYaml, type ParsedYaml } from '../model/yaml.ts';
import {
	changesBetween,
	compareDefinitions,
	documentWarnings,
	keysOf,
	nameOf,
	operationAt,
	operationsOf,
	readOpenapi,
	requirementsOf,
	routeOf,
	type DocumentWarning,
	type Level,
	type OpenapiDocument,
	type OpenapiOperation
} from '../openapi/index.ts';
import { baseOf, callPlaceOf, operationOfStep, type Workspace } from '../project/index.ts';
import { nameFrom, SOURCE_FILE, sourceOf, type DefinitionProblem, type GivenFile } from '../soap/index.ts';
import { decodeText } from '../values/index.ts';
import { fixesOf, type StepFix } from './fixes.ts';
import { usualOf } from './proof.ts';
import { makingsOf, scenarioOf, type Making } from './scenarios.ts';
import { credentialsFor } from './credentials.ts';
import { connectionFor, environmentsWith, type ImportOrder, type Wanted } from '../imports/index.ts';

const textOf = (bytes: Uint8Array): string => decodeText(bytes).text;

/** An ending by which it is found again: an address may have had none. */
function ended({ path, bytes }: GivenFile): string {
	const plain = path.replace(/\.(wsdl|xml|txt)$/i, '');
	return /\.(json|ya?ml)$/i.test(plain) ? plain : `${plain}${/^\s*\{/.test(textOf(bytes)) ? '.json' : '.yaml'}`;
}

/** What the import of OpenAPI documents does to a project: each becomes a collection, as far as its operations are chosen. */
export function planDocuments(given: ImportOrder, documents: GivenFile[]): DefinitionPlan[] {
	const { name, workspace, readFile, address, connection } = given;
	const folder = `definitions/${name}/`;
	// one document alone needs no folder, unless it has one
	const alone =
		given.files.length === 1 && !address && !readFile(folder + ended(given.files[0]!).replace(/^\.?\/+/, ''));
	const pathOf = (file: GivenFile): string => {
		const path = (documents.includes(file) ? ended(file) : file.path).replace(/^\.?\/+/, '');
		if (path.startsWith(folder)) return path;
		return alone ? `definitions/${name}${/\.\w+$/.exec(path)?.[0] ?? ''}` : folder + path;
	};
	const files = given.files.map((file) => ({ path: pathOf(file), bytes: file.bytes }));
	const fresh = new Map(files.map(({ path, bytes }) => [path, bytes]));
	const read = (file: string, from: (path: string) => Uint8Array | undefined): OpenapiDocument =>
		readOpenapi(file, (path) => {
			const bytes = from(path);
			return bytes && textOf(bytes);
		});
	if (address) files.push({ path: folder + SOURCE_FILE, bytes: sourceOf(address, connection) });
	return documents.map((document, index): DefinitionPlan => {
		const file = pathOf(document);
		const now = (path: string) => fresh.get(path) ?? readFile(path);
		const opened = read(file, now);
		const operations = operationsOf(opened);
		let before: OpenapiOperation[] = [];
		try {
			if (readFile(file)) before = operationsOf(read(file, readFile));
		} catch {
			// what could not be read before has nothing to be compared with
		}
		const own = documents.length === 1 ? name : nameFrom(file);
		const warnings = documentWarnings(opened);
		const made = collect({ ...given, name: own, document: opened, operations, before });
		const fixed = fix({ ...given, document: opened, operations, before }, file, made.writes);
		return {
			...{ name: own, title: opened.title, file, files: index === 0 ? files : [], bound: [] },
			...made,
			...fixed,
			operations: operations.map((one) => ({
				key: nameOf(one),
				...(one.id ? { id: one.id } : {}),
				version: '',
				doc: typeof one.node.value.summary === 'string' ? one.node.value.summary : '',
				wants: []
			})),
			changes: before.length > 0 ? changesOf(before, operations, file, workspace) : [],
			missing: [],
			problems: [...problemsOf(warnings, now), ...made.problems.map((message) => ({ file, line: 1, message }))]
		};
	});
}

interface Collecting extends ImportOrder {
	document: OpenapiDocument;
	operations: OpenapiOperation[];
	/** Those of the document that stood there before. */
	before: OpenapiOperation[];
}

type Collected = Pick<DefinitionPlan, 'writes' | 'made' | 'collects' | 'offers' | 'added' | 'kept'> & {
	problems: string[];
};

/** A collection of the operations that are chosen, with connection, credentials and names in environments. */
function collect(given: Collecting): Collected {
	const { name, workspace, operations, valueOf } = given;
	const path = `collections/${name}.yaml`;
	const old = isObject(valueOf(path)) ? (valueOf(path) as JsonObject) : undefined;
	const called = calledAmong(workspace, operations);
	const makings = makingsOf(
		operations.filter((one) => !called.has(one)),
		operations
	);
	chooseAmong(makings, given);
	const offers = makings.map(({ offer }) => offer);
	const chosen = makings.filter(({ offer }) => offer.chosen);
	const kept = [...called].map(nameOf);
	if (chosen.length === 0)
		return { writes: [], made: [], collects: old !== undefined, offers, added: [], kept, problems: [] };

	const problems = new Set<string>();
	const tell = (message: string) => void problems.add(message);
	const wanted: Wanted = { variables: {}, secrets: [] };
	const used = chosen.flatMap(operationsIn);
	const way = wayOf(given, old, used, wanted, tell);
	const { connection, prefix, base, credentials, usual } = way;
	const scenarios = Array.isArray(old?.scenarios) ? (old.scenarios as Json[]) : [];
	const taken = new Set(scenarios.map((one) => (isObject(one) ? String(one.id) : '')));
	const added = chosen.map((one) => scenarioOf(one, { prefix, base, credentials, usual, taken, tell }));
	leaveOut(path, scenarios, chosen, added, tell);
	const own = old?.connection === connection || old === undefined;
	const value: JsonObject = {
		...(old ?? { heron: 1, title: titleOf(given), connection, ...(usual ? { credential: usual } : {}) }),
		scenarios: [...scenarios, ...added.map(({ value: one }) => (own ? one : { ...one, connection }))]
	};
	const made = [...way.made, ...environmentsWith(wanted, workspace, valueOf)];
	return {
		writes: [...made, { path, value }],
		made: made.map((one) => one.path).filter((one) => valueOf(one) === undefined),
		collects: true,
		offers,
		added: added.map(({ id }) => id),
		kept,
		problems: [...problems]
	};
}

const titleOf = ({ document, name }: Collecting): string => document.title || name;

/** Says which offers are made. */
function chooseAmong(makings: Making[], { operations, before, choose }: Collecting): void {
	const known = new Set(before.map(nameOf));
	// what only moved is the same operation
	const ids = new Set(before.flatMap((one) => (one.id ? [`${one.method} ${one.id}`] : [])));
	for (const one of operations) if (one.id && ids.has(`${one.method} ${one.id}`)) known.add(nameOf(one));
	for (const { offer } of makings)
		// what could have been made before, and was not, is not wanted now
		offer.chosen = choose
			? choose.includes(offer.key)
			: offer.chain === '' && !(known.size > 0 && offer.operations.every((one) => known.has(one)));
}

/** Where calls go, and as whom, with the documents that are made for that. @param old the collection as it is */
function wayOf(
	given: Collecting,
	old: JsonObject | undefined,
	used: OpenapiOperation[],
	wanted: Wanted,
	tell: (message: string) => void
) {
	const { name, workspace, document, address = '' } = given;
	const through = connectionFor(document, {
		...{ file: document.file, name, workspace, wanted, title: titleOf(given), address },
		connection: given.connection || (typeof old?.connection === 'string' ? old.connection : '')
	});
	const { connection, prefix } = through;
	if (through.note) tell(through.note);
	const credentials = credentialsFor(document, { name, workspace, wanted, address, scopes: scopesOf(used) }, tell);
	const usual = typeof old?.credential === 'string' ? old.credential : usualOf(used, credentials);
	const fresh = through.made[0]?.value;
	const base = isObject(fresh) ? String(fresh.base) : baseOf(workspace, workspace.connections.get(connection));
	for (const other of fresh ? [] : knowingToo(given, `${pathIn(base)}${prefix}`, used))
		tell(
			`${other} knows the same calls: definition: in connections/${connection}.yaml says which one answers are held against`
		);
	const callers = credentials.filter((one) => !workspace.credentials.has(one.name));
	return { connection, prefix, base, credentials, usual, made: [...through.made, ...callers.map((one) => one.made)] };
}

/** As YAML it is up to twice as large. */
const MOST_JSON = FILE_LIMIT / 2;

/** Takes back what one file cannot hold, from the last scenario on. @param before those that it has already */
function leaveOut(
	path: string,
	before: Json[],
	chosen: Making[],
	added: ReturnType<typeof scenarioOf>[],
	tell: (message: string) => void
): void {
	let size = before.reduce<number>((sum, one) => sum + writeJson(one).length, 0);
	const first = added.findIndex(({ value }) => (size += writeJson(value).length) > MOST_JSON);
	if (first < 0) return;
	tell(
		`${path} would be larger than a file of a project may be: ${added.length - first} of ${added.length} scenarios are left out`
	);
	for (const { offer } of chosen.slice(first)) offer.chosen = false;
	added.length = first;
}

const operationsIn = ({ chain, operation }: Making): OpenapiOperation[] =>
	chain ? chain.steps.map((one) => one.operation) : [operation!];

const pathIn = (base: string): string => (URL.canParse(base) ? new URL(base).pathname.replace(/\/+$/, '') : '');
/** Other documents of the project that know calls of this one, where the connection does not say which is meant. */
function knowingToo({ workspace, document }: Collecting, before: string, operations: OpenapiOperation[]): string[] {
	return workspace.openapis.all().flatMap(({ file, definition }) => {
		if (!definition || file === document.file) return [];
		const knows = ({ method, template }: OpenapiOperation): boolean => {
			const place = { method, path: `${before}${routeOf(template).replace(/[{}]/g, '')}`, base: before };
			return operationAt(definition.operations, place) !== undefined;
		};
		return operations.some(knows) ? [file] : [];
	});
}

/** The scopes that calls need, by the names of schemes. */
function scopesOf(operations: OpenapiOperation[]): Map<string, Set<string>> {
	const scopes = new Map<string, Set<string>>();
	for (const operation of operations)
		for (const { scheme, scopes: own } of requirementsOf(operation).flat()) {
			const all = scopes.get(scheme) ?? new Set();
			for (const scope of own) all.add(scope);
			scopes.set(scheme, all);
		}
	return scopes;
}

/** The operations that steps of the project call already. */
function calledAmong(workspace: Workspace, operations: OpenapiOperation[]): Set<OpenapiOperation> {
	const called = new Set<OpenapiOperation>();
	for (const { name, scenarios } of workspace.collections.values())
		for (const { steps } of scenarios)
			for (const step of steps) {
				const place = callPlaceOf(workspace, name, step);
				const found = place && operationAt(operations, place);
				if (found) called.add(found);
			}
	return called;
}

function changesOf(
	before: OpenapiOperation[],
	after: OpenapiOperation[],
	file: string,
	workspace: Workspace
): DefinitionPlan['changes'] {
	const old = new Map(before.map((one) => [nameOf(one), one]));
	const now = new Map(after.map((one) => [nameOf(one), one]));
	const levels = levelsOf(before, after);
	const change = (key: string, kind: DefinitionPlan['changes'][number]['change'], what: string[] = []) => ({
		key,
		version: '',
		change: kind,
		...(levels.has(key) ? { level: levels.get(key)! } : {}),
		what,
		steps: stepsCalling(workspace, file, key)
	});
	const all = [
		...[...now.keys()].filter((key) => !old.has(key)).map((key) => change(key, 'added')),
		...[...old.keys()].filter((key) => !now.has(key)).map((key) => change(key, 'gone')),
		...[...now].flatMap(([key, one]) => {
			const was = old.get(key);
			const what = was ? othersOf(was, one) : [];
			return what.length > 0 ? [change(key, 'changed', what)] : [];
		})
	];
	// what steps call comes first
	return [...all.filter(({ steps }) => steps.length > 0), ...all.filter(({ steps }) => steps.length === 0)];
}

/** The changes of steps that would make them fit, those that are chosen made in the documents that are written. */
function fix(
	{ workspace, operations, before, valueOf, fix: wanted }: Collecting,
	file: string,
	writes: DefinitionPlan['writes']
): Pick<DefinitionPlan, 'writes' | 'fixes'> {
	const offered = before.length > 0 ? fixesOf(before, operations) : new Map<string, StepFix[]>();
	const values = new Map(writes.map(({ path, value }) => [path, value]));
	const fixes = new Map<string, DefinitionPlan['fixes'][number]>();
	if (offered.size === 0) return { writes, fixes: [] };
	for (const { name, scenarios } of workspace.collections.values()) {
		const path = `collections/${name}.yaml`;
		scenarios.forEach(({ id, steps }, at) =>
			steps.forEach((step, index) => {
				const operation = operationOfStep(workspace, name, step);
				if (operation?.document.file !== file) return;
				for (const { key, label, edit } of offered.get(nameOf(operation)) ?? []) {
					const document = values.get(path) ?? valueOf(path);
					const place = ['scenarios', at, 'steps', index];
					const raw = document === undefined ? undefined : getIn(document, place);
					if (!isObject(raw)) continue;
					const next = edit(raw as JsonObject);
					if (next === raw) continue;
					const chosen = wanted === 'all' || (wanted?.includes(key) ?? false);
					const offered = fixes.get(key) ?? { key, label, steps: [], chosen };
					fixes.set(key, offered);
					offered.steps.push(`${name}/${id}/${step.id}`);
					if (chosen) values.set(path, setIn(document!, place, next));
				}
			})
		);
	}
	return { writes: [...values].map(([path, value]) => ({ path, value })), fixes: [...fixes.values()] };
}

/** The worst that the changes of each operation mean for who calls it. */
function levelsOf(before: OpenapiOperation[], after: OpenapiOperation[]): Map<string, Level> {
	const [old, now] = [before[0]?.document, after[0]?.document];
	const worst = new Map<string, Level>();
	if (!old || !now) return worst;
	// the worst ones come first
	for (const { operation, level } of compareDefinitions(old, now))
		if (!worst.has(operation)) worst.set(operation, level);
	return worst;
}

/** What an operation says otherwise than before, also far away from where it stands. */
function othersOf(before: OpenapiOperation, after: OpenapiOperation): string[] {
	try {
		return changesBetween(before, after);
	} catch (error) {
		return [textIn(error)];
	}
}

/** Warnings with their lines. */
function problemsOf(
	warnings: DocumentWarning[],
	bytesOf: (path: string) => Uint8Array | undefined
): DefinitionProblem[] {
	const parsed = new Map<string, ParsedYaml>();
	const lineOf = ({ file, pointer }: DocumentWarning): number => {
		let read = parsed.get(file);
		if (!read) parsed.set(file, (read = parseYaml(file, textOf(bytesOf(file) ?? new Uint8Array()))));
		return read.placeOf(keysOf(pointer)).line;
	};
	return warnings.map((one) => {
		const line = lineOf(one);
		// a text of one line, or too long to be looked through, says nothing by its line
		const message = line === 1 && one.pointer !== '' ? `#${one.pointer}: ${one.message}` : one.message;
		return { file: one.file, line, message };
	});
}

/** The steps that call an operation of a document, as `collection/scenario/step`. */
function stepsCalling(workspace: Workspace, file: string, key: string): string[] {
	const out: string[] = [];
	for (const { name, scenarios } of workspace.collections.values())
		for (const { id, steps } of scenarios)
			for (const step of steps) {
				const operation = operationOfStep(workspace, name, step);
				if (operation?.document.file === file && nameOf(operation) === key) out.push(`${name}/${id}/${step.id}`);
			}
	return out;
}
