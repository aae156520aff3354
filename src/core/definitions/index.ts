import { textOf as textIn } from '../errors.ts';
import {
	changesBetween,
	documentWarnings,
	filesReferred,
	keysOf,
	looksLikeOpenapi,
	nameOf,
	operationsOf,
	readOpenapi,
	type DocumentWarning,
	type OpenapiDocument,
	type OpenapiOperation
} from '../openapi/index.ts';
import { parseYaml, type ParsedYaml } from '../model/yaml.ts';
import { operationOfStep, type Workspace } from '../project/index.ts';
import {
	locationsOf,
	nameFrom,
	planImport,
	SOURCE_FILE,
	sourceOf,
	type DefinitionPlan,
	type DefinitionProblem,
	type GivenFile,
	type ImportOrder
} from '../soap/index.ts';
import { decodeText } from '../values/index.ts';

/** The files that a definition names: imports of a WSDL or XSD, references of an OpenAPI document. */
export const filesNamedIn = (text: string): string[] =>
	looksLikeOpenapi(text) || !/^\s*</.test(text) ? filesReferred(text) : locationsOf(text);

const textOf = (bytes: Uint8Array): string => decodeText(bytes).text;

/**
 * What the import of definitions does to a project: a WSDL becomes a collection, an OpenAPI document is kept for the
 * checks that hold replies against it. Nothing is done yet.
 * @throws HeronError definition.*
 */
export function planDefinitions(given: ImportOrder): DefinitionPlan[] {
	const documents = given.files.filter(({ bytes }) => looksLikeOpenapi(textOf(bytes)));
	if (documents.length === 0) return planImport(given);
	const wsdls = given.files.filter((file) => !documents.includes(file) && /\.wsdl$/i.test(file.path));
	return [...planDocuments(given, documents), ...(wsdls.length > 0 ? planImport(given) : [])];
}

/** An ending by which it is found again: an address may have had none. */
function ended({ path, bytes }: GivenFile): string {
	const plain = path.replace(/\.(wsdl|xml|txt)$/i, '');
	return /\.(json|ya?ml)$/i.test(plain) ? plain : `${plain}${/^\s*\{/.test(textOf(bytes)) ? '.json' : '.yaml'}`;
}

function planDocuments(given: ImportOrder, documents: GivenFile[]): DefinitionPlan[] {
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
		return {
			name: documents.length === 1 ? name : nameFrom(file),
			file,
			files: index === 0 ? files : [],
			bound: [],
			added: [],
			kept: [],
			operations: operations.map((one) => ({
				key: nameOf(one),
				version: '',
				doc: typeof one.node.value.summary === 'string' ? one.node.value.summary : '',
				wants: []
			})),
			changes: before.length > 0 ? changesOf(before, operations, file, workspace) : [],
			missing: [],
			problems: problemsOf(documentWarnings(opened), now)
		};
	});
}

function changesOf(
	before: OpenapiOperation[],
	after: OpenapiOperation[],
	file: string,
	workspace: Workspace
): DefinitionPlan['changes'] {
	const old = new Map(before.map((one) => [nameOf(one), one]));
	const now = new Map(after.map((one) => [nameOf(one), one]));
	const change = (key: string, kind: DefinitionPlan['changes'][number]['change'], what: string[] = []) => ({
		key,
		version: '',
		change: kind,
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
	return warnings.map((one) => ({ file: one.file, line: lineOf(one), message: one.message }));
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
