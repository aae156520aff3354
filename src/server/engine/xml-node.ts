import type * as LibXml from 'libxml2-wasm';

/**
 * What a node that was found stands for: its text. With markup an element that holds elements is XML that stands by itself
 * (Exclusive XML Canonicalization 1.0).
 */
export function textOfNode(lib: typeof LibXml, node: LibXml.XmlNode, markup: boolean): string {
	if (!markup || !(node instanceof lib.XmlElement)) return node.content;
	for (let child = node.firstChild; child; child = child.next)
		if (child instanceof lib.XmlElement)
			return node.canonicalizeToString({ mode: lib.XmlC14NMode.XML_C14N_EXCLUSIVE_1_0 });
	return node.content;
}
