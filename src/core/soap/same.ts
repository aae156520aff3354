import { XSI } from './envelope.ts';
import { SOAP_ENCODING } from './schema/index.ts';
import type { XmlElement } from './tree.ts';

/** Whether two documents say the same: prefixes, spaces between elements and the order of attributes aside. */
export function sameXml(a: XmlElement, b: XmlElement): boolean {
	if (a.local !== b.local || a.namespace !== b.namespace || a.attributes.length !== b.attributes.length) return false;
	for (const one of a.attributes) {
		const other = b.attributes.find(({ local, namespace }) => local === one.local && namespace === one.namespace);
		// a QName may have another prefix
		const plain = (text: string) =>
			one.namespace === XSI || one.namespace === SOAP_ENCODING ? text.replace(/^[^:]*:/, '') : text;
		if (!other || plain(other.value) !== plain(one.value)) return false;
	}
	const parts = (element: XmlElement): (XmlElement | string)[] => {
		const merged: (XmlElement | string)[] = [];
		for (const child of element.children)
			if (typeof child === 'string' && typeof merged.at(-1) === 'string')
				merged.push(`${merged.pop() as string}${child}`);
			else merged.push(child);
		if (!merged.some((one) => typeof one !== 'string')) return merged.filter((one) => one !== '');
		return merged.map((one) => (typeof one === 'string' ? one.trim() : one)).filter((one) => one !== '');
	};
	const [left, right] = [parts(a), parts(b)];
	return (
		left.length === right.length &&
		left.every((one, index) => {
			const other = right[index]!;
			return typeof one === 'string' || typeof other === 'string' ? one === other : sameXml(one, other);
		})
	);
}
