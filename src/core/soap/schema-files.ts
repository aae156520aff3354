import type { SchemaTexts } from '../model/xml.ts';
import { SOAP_ENCODING, XSD } from './schema/index.ts';
import {
	attributeOf,
	childrenOf,
	cutOut,
	escapeAttribute,
	nameOf,
	readName,
	splitName,
	type XmlElement
} from './tree.ts';
import { resolveLocation, type Definition } from './wsdl/index.ts';

const XML = 'http://www.w3.org/XML/1998/namespace';
/** What definitions import without giving it: the attributes of XML, and arrays of SOAP 1.1 section 5. */
const KNOWN: Record<string, string> = {
	[XML]: `<xs:schema xmlns:xs="${XSD}" targetNamespace="${XML}">
<xs:attribute name="lang" type="xs:string"/><xs:attribute name="space" type="xs:NCName"/><xs:attribute name="base" type="xs:anyURI"/><xs:attribute name="id" type="xs:ID"/>
<xs:attributeGroup name="specialAttrs"><xs:attribute ref="xml:base"/><xs:attribute ref="xml:lang"/><xs:attribute ref="xml:space"/></xs:attributeGroup>
</xs:schema>`,
	[SOAP_ENCODING]: `<xs:schema xmlns:xs="${XSD}" xmlns:t="${SOAP_ENCODING}" targetNamespace="${SOAP_ENCODING}">
<xs:attribute name="arrayType" type="xs:string"/><xs:attribute name="offset" type="xs:string"/><xs:attribute name="position" type="xs:string"/>
<xs:complexType name="Array"><xs:sequence><xs:any namespace="##any" processContents="lax" minOccurs="0" maxOccurs="unbounded"/></xs:sequence><xs:attribute ref="t:arrayType"/><xs:attribute ref="t:offset"/><xs:attribute name="id" type="xs:ID"/><xs:attribute name="href" type="xs:anyURI"/><xs:anyAttribute namespace="##any" processContents="lax"/></xs:complexType>
${[
	'string',
	'int',
	'integer',
	'long',
	'short',
	'boolean',
	'decimal',
	'float',
	'double',
	'dateTime',
	'date',
	'time',
	'anyURI',
	'base64Binary',
	'hexBinary',
	'token',
	'byte'
]
	.map(
		(name) =>
			`<xs:complexType name="${name}"><xs:simpleContent><xs:extension base="xs:${name}"><xs:anyAttribute namespace="##any" processContents="lax"/></xs:extension></xs:simpleContent></xs:complexType>`
	)
	.join('')}
</xs:schema>`
};

/**
 * The schemas of a definition as one whole: a file for each namespace that includes all that define it, so that it does not
 * matter in which of several files something stands, nor whether an inline schema says where what it imports is.
 */
export function schemaFiles(definition: Definition): SchemaTexts {
	const { documents } = definition.schemas;
	const files: Record<string, string> = {};
	const origins: Record<string, string> = {};
	const included = new Map<string, string[]>();
	const add = (namespace: string, name?: string) =>
		void included.set(namespace, [...(included.get(namespace) ?? []), ...(name ? [name] : [])]);
	documents.forEach((one, index) => add(one.namespace, one.redefined ? undefined : `s${index}.xsd`));
	const calls = callElements(definition);
	for (const namespace of [...calls.keys(), ...Object.keys(KNOWN)]) add(namespace);
	const namespaces = [...included.keys()];
	const fileOf = (namespace: string) => `n${namespaces.indexOf(namespace)}.xsd`;
	const importOf = (namespace: string, prefix: string) =>
		`<${prefix}import${namespace ? ` namespace="${escapeAttribute(namespace)}"` : ''} schemaLocation="${fileOf(namespace)}"/>`;

	const importsFor = (own: string, prefix: string) =>
		namespaces
			.filter((namespace) => namespace !== own)
			.map((namespace) => importOf(namespace, prefix))
			.join('');

	for (const [namespace, text] of Object.entries(KNOWN))
		if (included.get(namespace)!.length === 0) {
			files[`known-${fileOf(namespace)}`] = text;
			add(namespace, `known-${fileOf(namespace)}`);
		}
	for (const [namespace, { prefixes, elements }] of calls) {
		const name = `calls-${fileOf(namespace)}`;
		const declared = [...prefixes].map(([uri, prefix]) => ` xmlns:${prefix}="${escapeAttribute(uri)}"`).join('');
		files[name] =
			`<xs:schema${declared}${targetOf(namespace)}>${importsFor(namespace, 'xs:')}${elements.join('')}</xs:schema>`;
		add(namespace, name);
	}
	documents.forEach((one, index) => {
		const name = `s${index}.xsd`;
		origins[name] = one.file;
		files[name] = textOfSchema(one, documents, (prefix) => importsFor(one.namespace, prefix));
	});
	for (const [namespace, names] of included) {
		files[fileOf(namespace)] =
			`<xs:schema xmlns:xs="${XSD}"${targetOf(namespace)}>${names.map((name) => `<xs:include schemaLocation="${name}"/>`).join('')}</xs:schema>`;
	}
	const main = 'main.xsd';
	files[main] =
		`<xs:schema xmlns:xs="${XSD}" targetNamespace="urn:loyal-heron:all">${namespaces.map((namespace) => importOf(namespace, 'xs:')).join('')}</xs:schema>`;
	return { main, files, origins };
}

type SchemaDocument = Definition['schemas']['documents'][number];

/** A schema as a file beside the others, which imports all namespaces. */
function textOfSchema(
	{ element, source, namespace, file }: SchemaDocument,
	documents: readonly SchemaDocument[],
	importsFor: (prefix: string) => string
): string {
	const prefix = element.prefix ? `${element.prefix}:` : '';
	const edits = [{ start: element.opened, end: element.opened, text: importsFor(prefix) }];
	if (namespace && attributeOf(element, 'targetNamespace') === undefined) {
		// it takes the namespace of whoever includes it, and so do the names in it that have no prefix
		const at = element.start + 1 + prefix.length + element.local.length;
		const usual = Object.hasOwn(element.declares, '') ? '' : ` xmlns="${escapeAttribute(namespace)}"`;
		edits.push({ start: at, end: at, text: `${targetOf(namespace)}${usual}` });
	}
	for (const at of arraysIn(element)) {
		const any = `<${prefix}any namespace="##any" processContents="lax" minOccurs="0" maxOccurs="unbounded"/>`;
		edits.push({ start: at, end: at, text: `<${prefix}sequence>${any}</${prefix}sequence>` });
	}
	for (const { start, end } of childrenOf(element, XSD, 'import', 'include'))
		edits.push({ start, end, text: source.slice(start, end).replace(/[^\n]/g, '') });
	for (const node of childrenOf(element, XSD, 'redefine')) {
		const path = resolveLocation(file, attributeOf(node, 'schemaLocation') ?? '');
		const at = documents.findIndex((other) => other.file === path && other.redefined);
		const tag = source.slice(node.start, node.opened);
		edits.push({
			start: node.start,
			end: node.opened,
			text: tag.replace(/schemaLocation\s*=\s*("[^"]*"|'[^']*')/, `schemaLocation="s${at}.xsd"`)
		});
	}
	return cutOutEdited(element, source, edits);
}

/** Where arrays of SOAP 1.1 are restricted and say nothing of what they hold, as is usual: read strictly, that is nothing. */
function arraysIn(schema: XmlElement): number[] {
	const out: number[] = [];
	for (const type of childrenOf(schema, XSD, 'complexType'))
		for (const content of childrenOf(type, XSD, 'complexContent'))
			for (const node of childrenOf(content, XSD, 'restriction')) {
				const isArray = readName(node, attributeOf(node, 'base') ?? '') === nameOf(SOAP_ENCODING, 'Array');
				if (isArray && childrenOf(node, XSD, 'sequence', 'choice', 'all', 'group').length === 0) out.push(node.opened);
			}
	return out;
}

const targetOf = (namespace: string): string => (namespace ? ` targetNamespace="${escapeAttribute(namespace)}"` : '');

function cutOutEdited(
	element: XmlElement,
	source: string,
	edits: { start: number; end: number; text: string }[]
): string {
	const sorted = [...edits].sort((a, b) => b.start - a.start || b.end - a.end);
	let text = source;
	let shift = 0;
	for (const { start, end, text: by } of sorted) {
		// an empty start tag is opened for what goes into it
		const selfClosing =
			start === element.opened && element.closing === element.opened && element.end === element.opened;
		const put = selfClosing ? '' : by;
		text = text.slice(0, start) + put + text.slice(end);
		shift += put.length - (end - start);
	}
	return cutOut({ ...element, end: element.end + shift }, text);
}

/** Elements that stand in a body and that no schema declares: calls of RPC style, and parts that have a type alone. */
function callElements(definition: Definition) {
	const byNamespace = new Map<string, Map<string, string>>();
	const prefixes = new Map<string, string>([[XSD, 'xs']]);
	const reference = (name: string): string => {
		const { namespace, local } = splitName(name);
		if (!namespace) return local;
		if (!prefixes.has(namespace)) prefixes.set(namespace, `p${prefixes.size}`);
		return `${prefixes.get(namespace)}:${local}`;
	};
	for (const operation of definition.operations)
		for (const message of [operation.input, operation.output])
			for (const one of message?.body ?? []) {
				if (one.global || definition.schemas.element(nameOf(one.namespace, one.local))) continue;
				const own = byNamespace.get(one.namespace) ?? new Map<string, string>();
				byNamespace.set(one.namespace, own);
				if (own.has(one.local)) continue;
				const made =
					one.made?.kind === 'complex' && one.made.content?.kind === 'sequence' ? one.made.content.items : undefined;
				if (!made) {
					own.set(one.local, `<xs:element name="${one.local}" type="${reference(one.typeName)}" nillable="true"/>`);
					continue;
				}
				const encoded = operation.use === 'encoded';
				// a part may not be nil, and each is there (BP 1.1 R2211, R2737); of encoded ones that says the service
				const nil = encoded ? ' nillable="true"' : '';
				const parts = made.map((item) => {
					if (item.kind !== 'element') return '';
					const { element } = item;
					return element.global
						? `<xs:element ref="${reference(nameOf(element.namespace, element.local))}"/>`
						: `<xs:element name="${element.local}" type="${reference(element.typeName)}"${nil}/>`;
				});
				// encoded parts may be in any order
				const group = encoded ? 'all' : 'sequence';
				const more = encoded ? '<xs:anyAttribute namespace="##any" processContents="lax"/>' : '';
				own.set(
					one.local,
					`<xs:element name="${one.local}"><xs:complexType><xs:${group}>${parts.join('')}</xs:${group}>${more}</xs:complexType></xs:element>`
				);
			}
	return new Map(
		[...byNamespace].map(([namespace, elements]) => [namespace, { prefixes, elements: [...elements.values()] }])
	);
}
