import { elementsOf, escapeAttribute, scopeAt, type XmlElement } from './tree.ts';

/** Places that references are followed to, so that ones in a circle, or of each other, come to an end. */
const MOST_FOLLOWED = 10_000;
const DEEPEST = 64;

const attribute = (element: XmlElement, local: string): string | undefined =>
	element.attributes.find((one) => one.local === local && one.namespace === '')?.value;

/**
 * An element with what its references mean in their places (`href="#id"`, SOAP 1.1 section 5.4.1), as a text by itself.
 * @param body elements that references may mean
 * @returns undefined when nothing refers to anything, or a reference leads nowhere or in a circle
 */
export function withoutReferences(element: XmlElement, body: XmlElement[], source: string): string | undefined {
	const byId = new Map<string, XmlElement>();
	const collect = (one: XmlElement) => {
		const id = attribute(one, 'id');
		if (id !== undefined) byId.set(id, one);
		elementsOf(one).forEach(collect);
	};
	body.forEach(collect);
	let followed = 0;
	let lost = false;

	const write = (one: XmlElement, open: readonly XmlElement[]): string => {
		const href = attribute(one, 'href');
		const meant = href?.startsWith('#') ? byId.get(href.slice(1)) : undefined;
		if (href !== undefined) {
			if (!meant || open.includes(meant) || open.length > DEEPEST || ++followed > MOST_FOLLOWED) {
				lost = true;
				return '';
			}
			return tag(one, meant, [...open, meant]);
		}
		return tag(one, one, open);
	};
	/** The name of one element with the attributes and content of another. */
	const tag = (named: XmlElement, from: XmlElement, open: readonly XmlElement[]): string => {
		const name = `${named.prefix ? `${named.prefix}:` : ''}${named.local}`;
		// values may be names, so all prefixes go along
		const scope = { ...scopeAt(from), [named.prefix]: named.namespace };
		const declared = Object.entries(scope)
			.filter(([prefix]) => prefix !== 'xml' && prefix !== 'xmlns')
			.map(([prefix, uri]) => ` xmlns${prefix ? `:${prefix}` : ''}="${escapeAttribute(uri)}"`)
			.filter((text) => !/ xmlns:[^=]+=""$/.test(text))
			.join('');
		const attributes = from.attributes
			// what ties the pieces together says nothing of the value
			.filter(
				({ local, namespace }) => !(namespace === '' && local === 'id') && !(local === 'root' && namespace !== '')
			)
			.filter(({ local }) => local !== 'encodingStyle')
			.map(({ local, prefix, value }) => ` ${prefix ? `${prefix}:` : ''}${local}="${escapeAttribute(value)}"`)
			.join('');
		let content = '';
		let at = from.opened;
		for (const child of elementsOf(from)) {
			content += source.slice(at, child.start) + write(child, open);
			at = child.end;
		}
		if (from.closing > from.opened) content += source.slice(at, from.closing);
		return `<${name}${declared}${attributes}>${content}</${name}>`;
	};
	const text = write(element, [element]);
	return lost || followed === 0 ? undefined : text;
}
