import { elementsOf, escapeAttribute, escapeText, parseXml, type XmlElement } from './tree.ts';

/** A document with a line for each element; where text and elements are mixed it stays as it is. @throws HeronError xml.wrong */
export function prettyXml(text: string): string {
	const root = parseXml(text);
	const lines: string[] = [];
	const startOf = (one: XmlElement): string => {
		const name = one.prefix ? `${one.prefix}:${one.local}` : one.local;
		const declared = Object.entries(one.declares).map(
			([prefix, uri]) => ` ${prefix ? `xmlns:${prefix}` : 'xmlns'}="${escapeAttribute(uri)}"`
		);
		const attributes = one.attributes.map(
			({ prefix, local, value }) => ` ${prefix ? `${prefix}:` : ''}${local}="${escapeAttribute(value)}"`
		);
		return `<${name}${declared.join('')}${attributes.join('')}`;
	};
	const write = (one: XmlElement, indent: string): void => {
		const name = one.prefix ? `${one.prefix}:${one.local}` : one.local;
		const kids = elementsOf(one);
		const texts = one.children.filter((child): child is string => typeof child === 'string');
		if (kids.length === 0) {
			const own = texts.join('');
			lines.push(own ? `${indent}${startOf(one)}>${escapeText(own)}</${name}>` : `${indent}${startOf(one)}/>`);
		} else if (texts.some((own) => own.trim())) lines.push(`${indent}${text.slice(one.start, one.end)}`);
		else {
			lines.push(`${indent}${startOf(one)}>`);
			for (const child of kids) write(child, `${indent}  `);
			lines.push(`${indent}</${name}>`);
		}
	};
	write(root, '');
	return lines.join('\n');
}
