import { HeronError } from '../../errors.ts';
import { schemaSet, XSD, type SchemaDocument } from '../schema/index.ts';
import { needsNoFile, shippedSchema } from '../shipped.ts';
import { attributeOf, childrenOf, parseXml, type XmlElement } from '../tree.ts';
import { componentsOf, docOf, shownName, type ReportProblem } from './components.ts';
import { plainOperationsOf } from './http.ts';
import { importsOf, resolveLocation } from './locations.ts';
import { operationsOf } from './operations.ts';
import { plainText, whatItIs, whyUnreadable } from './text.ts';
import { WSDL, type Definition, type DefinitionProblem, type WsdlDocument } from './types.ts';

/** @returns the text of a file; undefined when it is not there */
type ReadText = (path: string) => string | undefined;

/** The files of a definition, each read once, and what is wrong with them. */
class Gathered {
	/** All files that were read, with their texts. */
	readonly files = new Map<string, string>();
	readonly problems: DefinitionProblem[] = [];
	/** Locations of imports that are not there. */
	readonly missing: string[] = [];
	readonly documents: WsdlDocument[] = [];
	readonly schemas: SchemaDocument[] = [];
	readonly #readText: ReadText;
	readonly #roots = new Map<string, XmlElement>();
	readonly #seen = new Set<string>();

	constructor(readText: ReadText) {
		this.#readText = readText;
	}

	/** @throws Error when it cannot be parsed; its text is kept all the same */
	open(path: string): XmlElement | undefined {
		const known = this.#roots.get(path);
		if (known) return known;
		const text = this.files.get(path) ?? this.#readText(path);
		if (text === undefined) return undefined;
		const plain = plainText(text);
		this.files.set(path, plain);
		const root = parseXml(plain, path);
		this.#roots.set(path, root);
		return root;
	}

	problem: ReportProblem = (file, node, message) => {
		this.problems.push({ file, line: node?.line ?? 1, message });
	};

	/** A file that another one names; what is wrong with it is listed. */
	#follow(from: string, node: XmlElement, location: string): { path: string; root: XmlElement } | undefined {
		const path = resolveLocation(from, location);
		try {
			const root = this.open(path);
			if (root) return { path, root };
			if (!this.missing.includes(location)) this.missing.push(location);
			this.problem(from, node, `${location} is imported and is not there: it belongs at ${path}`);
		} catch (error) {
			this.problem(from, node, `${location} is imported and cannot be read: ${(error as Error).message}`);
		}
		return undefined;
	}

	addDocument(path: string, root: XmlElement): void {
		if (this.#seen.has(path)) return;
		this.#seen.add(path);
		this.documents.push({ path, root, namespace: attributeOf(root, 'targetNamespace') ?? '' });
		for (const types of childrenOf(root, WSDL, 'types'))
			for (const one of childrenOf(types, XSD, 'schema')) this.#addSchema(path, one, undefined);
		for (const node of childrenOf(root, WSDL, 'import')) {
			const location = attributeOf(node, 'location');
			const found = location?.trim() ? this.#follow(path, node, location) : undefined;
			if (!found) continue;
			if (found.root.namespace === WSDL && found.root.local === 'definitions') this.addDocument(found.path, found.root);
			else if (isSchema(found.root)) this.#addSchema(found.path, found.root, undefined);
			else
				this.problem(
					path,
					node,
					`${location} is imported and is no definition: ${whatItIs(found.root, 'definitions')}`
				);
		}
	}

	#addSchema(path: string, element: XmlElement, inherited: string | undefined, redefined = false): void {
		const namespace = attributeOf(element, 'targetNamespace') ?? inherited ?? '';
		const at = `${path}\n${element.start}\n${namespace}`;
		if (this.#seen.has(at)) return;
		this.#seen.add(at);
		const source = this.files.get(path)!;
		this.schemas.push({ file: path, element, source, namespace, ...(redefined ? { redefined } : {}) });
		for (const node of importsOf(element)) this.#addImport(path, node, namespace);
	}

	/** What a schema imports, includes or redefines. */
	#addImport(path: string, node: XmlElement, namespace: string): void {
		const location = attributeOf(node, 'schemaLocation')?.trim();
		const importing = node.local === 'import';
		const wanted = attributeOf(node, 'namespace');
		const shipped = importing && needsNoFile(wanted);
		if (shipped && !(location && this.#readText(resolveLocation(path, location)) !== undefined))
			return this.#addShipped(wanted!);
		const found = location ? this.#follow(path, node, location) : undefined;
		if (!found) return;
		if (isSchema(found.root)) {
			const own = attributeOf(found.root, 'targetNamespace');
			if (importing && wanted !== undefined && own !== undefined && wanted !== own)
				this.problem(path, node, `${location} is imported for ${wanted}, and defines ${own}`);
			this.#addSchema(found.path, found.root, importing ? undefined : namespace, node.local === 'redefine');
		} else if (found.root.namespace === WSDL) this.addDocument(found.path, found.root);
		else this.problem(path, node, `${location} is imported and is no schema: ${whatItIs(found.root, 'schema')}`);
	}

	/** A schema of a standard, which comes with the application. */
	#addShipped(namespace: string): void {
		const text = shippedSchema(namespace);
		if (!text) return;
		const path = `standard/${namespace}`;
		this.files.set(path, text);
		this.#addSchema(path, this.open(path)!, undefined);
	}
}

const isSchema = (root: XmlElement): boolean => root.local === 'schema' && root.namespace === XSD;

/**
 * Reads a definition (WSDL 1.1) and all that it imports. What is missing or wrong in parts is listed, and the rest is read.
 * @param readText the text of a file; undefined when it is not there
 * @throws HeronError definition.wrong when the file itself is none, file.missing
 */
export function readDefinition(file: string, readText: ReadText): Definition {
	const gathered = new Gathered(readText);
	const root = rootOf(file, gathered);
	gathered.addDocument(file, root);
	const schemas = schemaSet(gathered.schemas);
	const components = componentsOf(gathered.documents, schemas, gathered.problem);
	const operations = operationsOf(components);
	for (const name of schemas.missing) gathered.problem(file, root, `${shownName(name)} is referred to and not defined`);
	return {
		file,
		doc: docOf(root),
		operations,
		plain: plainOperationsOf(components),
		schemas,
		files: gathered.files,
		missing: gathered.missing,
		problems: gathered.problems
	};
}

function rootOf(file: string, gathered: Gathered): XmlElement {
	let root: XmlElement | undefined;
	try {
		root = gathered.open(file);
	} catch (cause) {
		const detail = whyUnreadable(file, gathered.files.get(file) ?? '', cause as Error);
		throw new HeronError('definition.wrong', { file, detail }, { cause });
	}
	if (!root) throw new HeronError('file.missing', { file });
	if (root.local !== 'definitions' || root.namespace !== WSDL)
		throw new HeronError('definition.wrong', { file, detail: whatItIs(root, 'definitions (WSDL 1.1)') });
	return root;
}
