/** What an XPath expression gave: a text, number or truth value, or the texts of the nodes that it found, in document order. */
export type XPathValue = string | number | boolean | string[];

/** An XML document that was read once and can be asked often. */
export interface XmlHandle {
	/**
	 * @param markup elements that hold elements are given as XML that stands by itself, not as their text
	 * @throws HeronError selector.syntax, selector.slow
	 */
	xpath(expression: string, namespaces: Record<string, string>, markup?: boolean): XPathValue | Promise<XPathValue>;
	/** Gives its memory back. */
	close(): void;
}

/** One thing that is wrong in an XML document. */
export interface XmlFault {
	message: string;
	/** From 1. */
	line: number;
	column: number;
	/** Where in the document, as an XPath, where that is known. */
	path?: string;
}

/** Reading and validating XML; the parser is outside of the core. */
export interface XmlPort {
	/** Reads a document; entities are not fetched, and those that blow up are refused. @throws HeronError selector.xml */
	open(text: string): Promise<XmlHandle>;
	/** Reads HTML as a browser does: there is none that cannot be read, but for its depth. @throws HeronError selector.xml */
	openHtml(text: string): Promise<XmlHandle>;
	/**
	 * Validates a document against a schema (XSD 1.0) of the project.
	 * @param file path of the schema in the project; what it includes and imports is found from there
	 * @throws HeronError schema.wrong, selector.body, file.missing
	 */
	validate(text: string, file: string): Promise<XmlFault[]>;
	/**
	 * Validates a document against schemas that are given as texts; they are compiled once as long as the object lives.
	 * @throws HeronError schema.wrong, selector.xml
	 */
	validateWith(text: string, schemas: SchemaTexts): Promise<XmlFault[]>;
}

/** Schemas (XSD 1.0) as texts by name; they include and import each other by these names. */
export interface SchemaTexts {
	/** The one that all begins with. */
	main: string;
	files: Record<string, string>;
	/** From which file of the project a text is, for messages. */
	origins: Record<string, string>;
}

/** Namespaces by the prefix that selectors use. */
export type Namespaces = Readonly<Record<string, string>>;

/** The prefixes that a document declares, each with the namespace of its first declaration; the default one is `''`. */
export function namespacesOf(text: string): Record<string, string> {
	const out: Record<string, string> = {};
	for (const [, prefix = '', , uri = ''] of text.matchAll(/\sxmlns(?::([\w.-]+))?\s*=\s*(["'])(.*?)\2/g))
		if (!Object.hasOwn(out, prefix) && prefix !== '__proto__') out[prefix] = uri;
	return out;
}
