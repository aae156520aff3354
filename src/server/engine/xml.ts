import { HeronError } from '#core/errors.ts';
import type { SchemaTexts, XmlFault, XmlPort, XPathValue } from '#core/model/xml.ts';
import { posix } from 'node:path';
import type * as LibXml from 'libxml2-wasm';
import { htmlAsXml } from '#core/model/html.ts';
import { importAt } from './import-at.ts';
import { textOfNode } from './xml-node.ts';
import { isHeavy, openApart } from './xpath.ts';

type Lib = typeof LibXml;
type ReadFile = (path: string) => Uint8Array | undefined;

let loading: Promise<Lib> | undefined;
/**
 * The XML library: 100 ms to load, so only when XML is asked for. A program that came by standard input finds no
 * packages by name; whoever starts it says where the library is.
 */
function library(): Promise<Lib> {
	const xmlLibrary = process.env.HERON_XML_LIBRARY ?? 'libxml2-wasm';
	return (loading ??= quietly(() => importAt(xmlLibrary) as Promise<Lib>));
}

/** Nothing is fetched, entities from outside are not read, and what blows up is refused (the library's own limits). */
const optionsOf = ({ ParseOption: o }: Lib) => o.XML_PARSE_NONET | o.XML_PARSE_NO_XXE | o.XML_PARSE_BIG_LINES;

let quiet = false;
/**
 * The library prints what it also throws, and takes console.error for it when it is loaded. What it prints may hold
 * values that nobody must see, so it is given one that can be silenced.
 */
async function quietly(load: () => Promise<Lib>): Promise<Lib> {
	const tell = console.error;
	console.error = (...words: unknown[]) => {
		if (!quiet) tell(...words);
	};
	try {
		return await load();
	} finally {
		console.error = tell;
	}
}
function silent<T>(work: () => T): T {
	quiet = true;
	try {
		return work();
	} finally {
		quiet = false;
	}
}

const SCHEMAS_KEPT = 20;
const PREFIX = 'project:/';

const lineOf = (message: string): string => message.trim().split('\n')[0]!.replace(/\s+/g, ' ');

/** What a declaration says of its encoding holds no more for what is text. It has to stand first (XML 1.0 section 2.8). */
const plainXml = (text: string): string => text.replace(/^\uFEFF?(<\?xml[^>]*?)\s+encoding\s*=\s*(["'])[^"']*\2/, '$1');

/** A document; whoever asks disposes of it. */
function parseWith(lib: Lib, text: string): LibXml.XmlDocument {
	try {
		return silent(() => lib.XmlDocument.fromString(plainXml(text), { option: optionsOf(lib) }));
	} catch (cause) {
		const [first] = cause instanceof lib.XmlParseError ? cause.details : [];
		const place = first ? ` (line ${first.line}, column ${first.col})` : '';
		const start = text.slice(0, 40).trim();
		const message = lineOf((cause as Error).message);
		const deep = /excessive depth|xmlParserMaxDepth/i.test(message);
		const detail = deep ? `it is nested deeper than 256 levels${place}` : start ? `${message}${place}` : 'it is empty';
		throw new HeronError('selector.xml', { detail }, { cause });
	}
}

/** XPath and XSD over libxml2. @param readFile files of the project, for schemas and what they import */
export const createXml = (readFile: ReadFile): XmlPort => {
	const validators = new Validators();
	return {
		open: async (text) => new OpenXml(await library(), text),
		openHtml: async (text) => new OpenXml(await library(), await htmlAsXml(text)),
		async validate(text, file) {
			const lib = await library();
			const validator = validators.keep(file, () => compileSchema(lib, { file, read: readFile, origins: {} }));
			return judge(lib, validator, text);
		},
		async validateWith(text, given) {
			const lib = await library();
			const encoder = new TextEncoder();
			const read: ReadFile = (name) =>
				Object.hasOwn(given.files, name) ? encoder.encode(given.files[name]) : undefined;
			const validator = validators.keep(given, () =>
				compileSchema(lib, { file: given.main, read, origins: given.origins })
			);
			return judge(lib, validator, text);
		}
	};
};

/** @param origins where texts come from that were put under another name */
function compileSchema(
	lib: Lib,
	{ file, read, origins }: { file: string; read: ReadFile; origins: Record<string, string> }
): LibXml.XsdValidator {
	const source = read(file);
	if (!source) throw new HeronError('file.missing', { file });
	const provider = new ProjectInput(read);
	lib.xmlCleanupInputProvider();
	lib.xmlRegisterInputProvider(provider);
	let document: LibXml.XmlDocument | undefined;
	try {
		const url = PREFIX + file;
		const opened = (document = silent(() => lib.XmlDocument.fromBuffer(source, { url, option: optionsOf(lib) })));
		return silent(() => lib.XsdValidator.fromDoc(opened));
	} catch (cause) {
		const outside = provider.refused.length > 0 ? `; not in the project: ${provider.refused.join(', ')}` : '';
		const [first] = cause instanceof lib.XmlValidateError || cause instanceof lib.XmlParseError ? cause.details : [];
		const from = first?.file ? origins[first.file.replace(PREFIX, '')] : undefined;
		const detail = `${from ? `${from}:${first!.line}: ` : ''}${lineOf((cause as Error).message)}${outside}`;
		throw new HeronError('schema.wrong', { file, detail }, { cause });
	} finally {
		document?.dispose();
		lib.xmlCleanupInputProvider();
	}
}

/** Compiled schemas: those of the project by path, and given ones by their object; the oldest go first. */
class Validators {
	readonly #kept = new Map<string | SchemaTexts, LibXml.XsdValidator>();

	keep(key: string | SchemaTexts, make: () => LibXml.XsdValidator): LibXml.XsdValidator {
		const kept = this.#kept.get(key);
		if (kept) return kept;
		const validator = make();
		if (this.#kept.size >= SCHEMAS_KEPT) {
			const [oldest, old] = this.#kept.entries().next().value!;
			old.dispose();
			this.#kept.delete(oldest);
		}
		this.#kept.set(key, validator);
		return validator;
	}
}

function judge(lib: Lib, validator: LibXml.XsdValidator, text: string): XmlFault[] {
	const document = parseWith(lib, text);
	try {
		silent(() => validator.validate(document));
		return [];
	} catch (error) {
		if (!(error instanceof lib.XmlValidateError)) throw error;
		return error.details.map((one): XmlFault => ({
			message: lineOf(one.message),
			line: one.line,
			column: one.col,
			...(one.xpath ? { path: one.xpath } : {})
		}));
	} finally {
		document.dispose();
	}
}

const wrongSelector = (selector: string, message: string, cause?: unknown): HeronError =>
	new HeronError('selector.syntax', { selector, detail: lineOf(message) }, { cause });

/** A document that is asked by XPath until it is closed. */
class OpenXml {
	readonly #lib: Lib;
	readonly #text: string;
	readonly #document: LibXml.XmlDocument;
	#apart: ReturnType<typeof openApart> | undefined;

	constructor(lib: Lib, text: string) {
		this.#lib = lib;
		this.#text = text;
		this.#document = parseWith(lib, text);
	}

	xpath(expression: string, namespaces: Record<string, string>, markup = false): XPathValue | Promise<XPathValue> {
		if (isHeavy(expression, this.#text)) return this.#xpathApart(expression, namespaces, markup);
		let compiled: LibXml.XmlXPath;
		try {
			compiled = silent(() => this.#lib.XmlXPath.compile(expression, namespaces));
		} catch (cause) {
			throw wrongSelector(expression, (cause as Error).message, cause);
		}
		try {
			const value = silent(() => this.#document.eval(compiled));
			return Array.isArray(value) ? value.map((node) => textOfNode(this.#lib, node, markup)) : value;
		} catch (cause) {
			throw wrongSelector(expression, (cause as Error).message, cause);
		} finally {
			compiled.dispose();
		}
	}

	async #xpathApart(expression: string, namespaces: Record<string, string>, markup: boolean): Promise<XPathValue> {
		this.#apart ??= openApart(plainXml(this.#text));
		const answer = await this.#apart.xpath(expression, namespaces, markup);
		if ('error' in answer) throw wrongSelector(expression, answer.error);
		return answer.value;
	}

	close(): void {
		this.#document.dispose();
		this.#apart?.close();
	}
}

/**
 * The exclusive canonical form of the element with a `wsu:Id` (Exclusive XML Canonicalization 1.0).
 * @throws HeronError selector.xml when the document is none, or has no such element
 */
export async function canonicalXml(text: string, id: string): Promise<string> {
	const lib = await library();
	const document = parseWith(lib, text);
	const path = silent(() => lib.XmlXPath.compile(`//*[@*[local-name()='Id']='${id.replace(/'/g, '')}']`));
	try {
		const found = document.get(path);
		if (!found) throw new HeronError('selector.xml', { detail: `nothing has the id ${id}` });
		return found.canonicalizeToString({ mode: lib.XmlC14NMode.XML_C14N_EXCLUSIVE_1_0 });
	} finally {
		path.dispose();
		document.dispose();
	}
}

/** Reads what schemas include and import: files of the project, and nothing else. */
class ProjectInput implements LibXml.XmlInputProvider {
	readonly refused: string[] = [];
	private readonly open_ = new Map<number, { bytes: Uint8Array; at: number }>();
	private next = 1;
	private readonly readFile: ReadFile;
	constructor(readFile: ReadFile) {
		this.readFile = readFile;
	}
	private bytesOf(name: string): Uint8Array | undefined {
		const path = name.startsWith(PREFIX) ? name.slice(PREFIX.length) : name;
		return this.readFile(posix.normalize(path));
	}
	match(name: string): boolean {
		const there = this.bytesOf(name) !== undefined;
		if (!there && !this.refused.includes(name)) this.refused.push(name.replace(PREFIX, ''));
		return there;
	}
	open(name: string): number | undefined {
		const bytes = this.bytesOf(name);
		if (!bytes) return undefined;
		this.open_.set(this.next, { bytes, at: 0 });
		return this.next++;
	}
	read(id: number, buffer: Uint8Array): number {
		const file = this.open_.get(id);
		if (!file) return -1;
		const piece = file.bytes.subarray(file.at, file.at + buffer.byteLength);
		buffer.set(piece);
		file.at += piece.byteLength;
		return piece.byteLength;
	}
	close(id: number): boolean {
		return this.open_.delete(id);
	}
}
