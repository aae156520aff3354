import { parentPort, workerData } from 'node:worker_threads';
import type * as LibXml from 'libxml2-wasm';
import { textOfNode } from './xml-node.ts';

/** A document that follows, or a question to the last one. */
export type XPathOrder = { text: string } | { expression: string; namespaces: Record<string, string>; markup: boolean };
export type XPathAnswer = { value: string | number | boolean | string[] } | { error: string };
/** It begins to look: the document is read. */
export type XPathBegin = { started: true };

const { library } = workerData as { library: string };
let document: LibXml.XmlDocument | undefined;
// what the library prints may hold what nobody must see
console.error = () => {};

parentPort!.on('message', (order: XPathOrder) => {
	void answer(order).then((found) => found && parentPort!.postMessage(found));
});

async function answer(order: XPathOrder): Promise<XPathAnswer | undefined> {
	const lib = (await import(library)) as typeof LibXml;
	if ('text' in order) {
		document?.dispose();
		const { ParseOption: o } = lib;
		document = lib.XmlDocument.fromString(order.text, {
			option: o.XML_PARSE_NONET | o.XML_PARSE_NO_XXE | o.XML_PARSE_BIG_LINES
		});
		return undefined;
	}
	parentPort!.postMessage({ started: true } satisfies XPathBegin);
	try {
		const compiled = lib.XmlXPath.compile(order.expression, order.namespaces);
		try {
			const value = document!.eval(compiled);
			return { value: Array.isArray(value) ? value.map((node) => textOfNode(lib, node, order.markup)) : value };
		} finally {
			compiled.dispose();
		}
	} catch (error) {
		return { error: (error as Error).message };
	}
}
