import { unescapeAddress } from '../values/index.ts';
import { HeronError } from '../errors.ts';
import { plainOperationsOf, type PlainOperation } from './http-binding.ts';
import { needsNoFile, shippedSchema } from './shipped.ts';
import {
	schemaSet,
	XSD,
	type ElementDeclaration,
	type Particle,
	type SchemaDocument,
	type SchemaSet
} from './schema/index.ts';
import {
	attributeOf,
	childOf,
	childrenOf,
	elementsOf,
	namespaceOf,
	parseXml,
	readName,
	splitName,
	textIn,
	nameOf,
	PLAIN_ENTITY,
	type XmlElement
} from './tree.ts';

const WSDL = 'http://schemas.xmlsoap.org/wsdl/';
const MIME = 'http://schemas.xmlsoap.org/wsdl/mime/';
const SOAP_BINDINGS: Record<string, SoapVersion> = {
	'http://schemas.xmlsoap.org/wsdl/soap/': '1.1',
	'http://schemas.xmlsoap.org/wsdl/soap12/': '1.2'
};
/** WS-Addressing 1.0 Metadata, and WSDL Binding before it. */
const ADDRESSING_METADATA = [
	'http://www.w3.org/2007/05/addressing/metadata',
	'http://www.w3.org/2006/05/addressing/wsdl',
	'http://www.w3.org/2006/02/addressing/wsdl'
];
const HTTP_TRANSPORTS = ['http://schemas.xmlsoap.org/soap/http', 'http://www.w3.org/2003/05/soap/bindings/HTTP/', ''];
const WSDL2 = 'http://www.w3.org/ns/wsdl';

export type SoapVersion = '1.1' | '1.2';

/** A message as it stands in an envelope. */
export interface SoapMessage {
	/** The children of the body. */
	body: ElementDeclaration[];
	/** The entries of the header that the definition knows. */
	headers: ElementDeclaration[];
	/** Parts that travel beside the envelope (SOAP Messages with Attachments). */
	attachments: { part: string; types: string[] }[];
}

export interface SoapOperation {
	/** `Service.Operation`, by which steps speak of it. */
	key: string;
	name: string;
	service: string;
	port: string;
	version: SoapVersion;
	/** As the definition gives it. */
	address: string;
	action: string;
	/** What WS-Addressing calls the message that is sent (WS-Addressing 1.0 Metadata section 4.4). */
	addressingAction: string;
	/** What it calls the message that is answered (section 4.4.2). */
	answerAction: string;
	style: 'document' | 'rpc';
	use: 'literal' | 'encoded';
	/** The namespace of an RPC call. */
	namespace: string;
	input: SoapMessage;
	/** Undefined when there is no answer. */
	output: SoapMessage | undefined;
	faults: ElementDeclaration[];
	doc: string;
	/** Which security and addressing its policies ask for. */
	wants: string[];
}

/** Something in a definition that cannot be used; the rest can. */
export interface DefinitionProblem {
	file: string;
	line: number;
	message: string;
}

/** A WSDL with all that it imports. */
export interface Definition {
	/** Its path in the project. */
	file: string;
	doc: string;
	operations: SoapOperation[];
	/** Those that are called without an envelope. */
	plain: PlainOperation[];
	schemas: SchemaSet;
	/** All files that were read, with their texts. */
	files: Map<string, string>;
	/** Addresses of imports that are not there. */
	missing: string[];
	problems: DefinitionProblem[];
}

/** The name of the file that an address is kept in: `…/toll?xsd=types` is `toll-xsd-types.xsd`. */
export function fileOfAddress(address: string): string {
	const [path = '', query = ''] = address.replace(/#.*$/, '').split('?');
	const last = unescapeAddress(path.replace(/\/+$/, '').split('/').at(-1) ?? '') || 'definition';
	const asked = /^(single)?wsdl2?$/i.test(query) ? '' : query;
	const plain = (asked ? `${last}-${unescapeAddress(asked)}` : last)
		.replace(/[^\w.-]+/g, '-')
		.replace(/^[.-]+|-+$/g, '');
	const ending = /\bxsd\b/i.test(query) ? '.xsd' : '.wsdl';
	return /\.(wsdl|xsd|xml)$/i.test(plain) ? plain : `${plain || 'definition'}${ending}`;
}
const isAddress = (location: string): boolean => /^[a-z][a-z0-9+.-]*:\/\//i.test(location);

/** The path of what a file names, without leaving the folder of definitions. */
export function resolveLocation(from: string, location: string): string {
	const folder = from.includes('/') ? from.slice(0, from.lastIndexOf('/') + 1) : '';
	if (isAddress(location) || location.includes('?')) return folder + fileOfAddress(location);
	const parts = (folder + location.replace(/#.*$/, '')).split('/');
	const out: string[] = [];
	// definitions/NAME/ is never left
	const least = from.startsWith('definitions/') ? 2 : 0;
	for (const part of parts) {
		if (part === '..') out.splice(Math.max(least, out.length - 1));
		else if (part !== '.' && part !== '') out.push(part);
	}
	return out.join('/');
}

/** What a text is when it is no definition, in words; undefined when it is one. */
function strange(root: XmlElement, wanted: string): string | undefined {
	if (root.namespace === WSDL2)
		return 'it is WSDL 2.0, and WSDL 1.1 is read here: ask for the 1.1 form, which most servers give at ?wsdl';
	if (root.local.toLowerCase() === 'html')
		return 'it is an HTML page, perhaps one for signing in or an error: fetch the definition itself';
	if (root.local === 'definitions' && root.namespace !== WSDL)
		return `its root is definitions in the namespace ${root.namespace || '(none)'}, and ${WSDL} is the one of WSDL 1.1`;
	return `its root is ${root.local}, and ${wanted} is wanted`;
}

/** Comments before the XML declaration are against XML 1.0 section 2.8, and seen in the wild; lines stay where they are. */
const withoutProlog = (text: string): string =>
	text.replace(/^\uFEFF?(\s|<!--[\s\S]*?-->)*<\?xml[\s\S]*?\?>/, (found) => found.replace(/[^\n]/g, ' '));

const imports = (element: XmlElement): XmlElement[] => childrenOf(element, XSD, 'import', 'include', 'redefine');

/** Plain entities of a document type filled in, so that pieces of the text stand for themselves; others are left to be refused. */
function withoutEntities(text: string): string {
	const type = /<!DOCTYPE[^[>]*(\[[\s\S]*?\]\s*)?>/.exec(text)?.[0];
	if (!type) return text;
	const entities = new Map(
		[...type.matchAll(PLAIN_ENTITY)].map(([, name, double, single]) => [name!, double ?? single ?? ''])
	);
	const filled = text.replace(/&([\w.:-]+);/g, (found, name: string) => entities.get(name) ?? found);
	const rest = /&(?!(?:amp|lt|gt|quot|apos|#\w+);)/.test(filled.replace(type, ''));
	return rest ? text : filled.replace(/<!DOCTYPE[^[>]*(\[[\s\S]*?\]\s*)?>/, (found) => found.replace(/[^\n]/g, ' '));
}

/** Whether a text of WSDL defines services. */
export const offersService = (text: string): boolean => /<(?:[\w.-]+:)?service\b/.test(text);

/** All that a file of definitions names: locations as they are written, each with the place. */
export function locationsIn(root: XmlElement): { node: XmlElement; location: string }[] {
	const schemas =
		root.local === 'schema'
			? [root]
			: childrenOf(root, WSDL, 'types').flatMap((types) => childrenOf(types, XSD, 'schema'));
	const named = [
		...childrenOf(root, WSDL, 'import').map((node) => ({ node, location: attributeOf(node, 'location') })),
		...schemas
			.flatMap(imports)
			.filter((node) => node.local !== 'import' || !needsNoFile(attributeOf(node, 'namespace')))
			.map((node) => ({ node, location: attributeOf(node, 'schemaLocation') }))
	];
	return named.filter((one): one is { node: XmlElement; location: string } => !!one.location?.trim());
}

/**
 * Reads a definition (WSDL 1.1) and all that it imports. What is missing or wrong in parts is listed, and the rest is read.
 * @param readText the text of a file; undefined when it is not there
 * @throws HeronError definition.wrong when the file itself is none
 */
export function readDefinition(file: string, readText: (path: string) => string | undefined): Definition {
	const files = new Map<string, string>();
	const problems: DefinitionProblem[] = [];
	const missing: string[] = [];
	const roots = new Map<string, XmlElement>();
	const schemas: SchemaDocument[] = [];
	const seen = new Set<string>();

	const open = (path: string): XmlElement | undefined => {
		const text = files.get(path) ?? readText(path);
		if (text === undefined) return undefined;
		const plain = withoutEntities(withoutProlog(text));
		files.set(path, plain);
		const root = roots.get(path) ?? parseXml(plain, path);
		roots.set(path, root);
		return root;
	};
	const problem = (at: string, node: XmlElement | undefined, message: string) =>
		void problems.push({ file: at, line: node?.line ?? 1, message });

	/** A file that another one names; what is wrong with it is listed. */
	const follow = (from: string, node: XmlElement, location: string): { path: string; root: XmlElement } | undefined => {
		const path = resolveLocation(from, location);
		try {
			const root = open(path);
			if (root) return { path, root };
			if (!missing.includes(location)) missing.push(location);
			problem(from, node, `${location} is imported and is not there: it belongs at ${path}`);
		} catch (error) {
			problem(from, node, `${location} is imported and cannot be read: ${(error as Error).message}`);
		}
		return undefined;
	};

	const addSchema = (path: string, element: XmlElement, inherited: string | undefined, redefined = false): void => {
		const namespace = attributeOf(element, 'targetNamespace') ?? inherited ?? '';
		const at = `${path}\n${element.start}\n${namespace}`;
		if (seen.has(at)) return;
		seen.add(at);
		schemas.push({ file: path, element, source: files.get(path)!, namespace, ...(redefined ? { redefined } : {}) });
		for (const node of imports(element)) {
			const location = attributeOf(node, 'schemaLocation')?.trim();
			const imported = node.local === 'import' ? attributeOf(node, 'namespace') : undefined;
			if (needsNoFile(imported) && !(location && readText(resolveLocation(path, location)) !== undefined)) {
				const text = shippedSchema(imported);
				const at = `standard/${imported}`;
				if (text) files.set(at, text);
				const root = text ? open(at) : undefined;
				if (root) addSchema(at, root, undefined);
				continue;
			}
			if (!location) continue;
			const found = follow(path, node, location);
			if (!found) continue;
			if (found.root.local === 'schema' && found.root.namespace === XSD) {
				const wanted = attributeOf(node, 'namespace');
				const own = attributeOf(found.root, 'targetNamespace');
				if (node.local === 'import' && wanted !== undefined && own !== undefined && wanted !== own)
					problem(path, node, `${location} is imported for ${wanted}, and defines ${own}`);
				addSchema(found.path, found.root, node.local === 'import' ? undefined : namespace, node.local === 'redefine');
			} else if (found.root.namespace === WSDL) addDocument(found.path, found.root);
			else problem(path, node, `${location} is imported and is no schema: ${strange(found.root, 'schema')}`);
		}
	};

	const documents: { path: string; root: XmlElement; namespace: string }[] = [];
	const addDocument = (path: string, root: XmlElement): void => {
		if (seen.has(path)) return;
		seen.add(path);
		documents.push({ path, root, namespace: attributeOf(root, 'targetNamespace') ?? '' });
		for (const types of childrenOf(root, WSDL, 'types'))
			for (const one of childrenOf(types, XSD, 'schema')) addSchema(path, one, undefined);
		for (const node of childrenOf(root, WSDL, 'import')) {
			const location = attributeOf(node, 'location');
			if (!location?.trim()) continue;
			const found = follow(path, node, location);
			if (!found) continue;
			if (found.root.namespace === WSDL && found.root.local === 'definitions') addDocument(found.path, found.root);
			else if (found.root.namespace === XSD && found.root.local === 'schema')
				addSchema(found.path, found.root, undefined);
			else problem(path, node, `${location} is imported and is no definition: ${strange(found.root, 'definitions')}`);
		}
	};

	let root: XmlElement | undefined;
	try {
		root = open(file);
	} catch (error) {
		const text = (files.get(file) ?? '').trim();
		const detail = !text
			? 'it is empty'
			: /^<!doctype html|^<html/i.test(text)
				? 'it is an HTML page, perhaps one for signing in or an error: fetch the definition itself'
				: text.startsWith('<')
					? (error as Error).message.replace(`${file}:`, 'at ')
					: `it is not XML; it starts with: ${text.slice(0, 40)}`;
		throw new HeronError('definition.wrong', { file, detail }, { cause: error });
	}
	if (!root) throw new HeronError('file.missing', { file });
	if (root.local !== 'definitions' || root.namespace !== WSDL)
		throw new HeronError('definition.wrong', { file, detail: strange(root, 'definitions (WSDL 1.1)')! });
	addDocument(file, root);

	const set = schemaSet(schemas);
	const reader = operationsOf(documents, set, problem);
	const docs = childOf(root, WSDL, 'documentation');
	for (const name of set.missing) problem(file, root, `${shown(name)} is referred to and not defined`);
	return {
		file,
		doc: docs ? textIn(docs).replace(/\s+/g, ' ').trim() : '',
		operations: reader,
		plain: plainOperationsOf(documents, set),
		schemas: set,
		files,
		missing,
		problems
	};
}

const shown = (name: string): string => {
	const { namespace, local } = splitName(name);
	return namespace ? `${local} of ${namespace.replace(/^\?/, 'the prefix ')}` : local;
};

type Documents = { path: string; root: XmlElement; namespace: string }[];
interface Named {
	node: XmlElement;
	path: string;
}

function operationsOf(
	documents: Documents,
	schemas: SchemaSet,
	problem: (path: string, node: XmlElement | undefined, message: string) => void
): SoapOperation[] {
	const named = new Map<string, Named>();
	for (const { path, root, namespace } of documents)
		for (const node of elementsOf(root))
			if (node.namespace === WSDL && attributeOf(node, 'name'))
				named.set(`${node.local} ${nameOf(namespace, attributeOf(node, 'name')!)}`, { node, path });
	const find = (kind: string, at: Named, text: string | undefined): Named | undefined => {
		const name = readName(at.node, text ?? '');
		const found = named.get(`${kind} ${name}`);
		if (!found) problem(at.path, at.node, `there is no ${kind} ${shown(name)}`);
		return found;
	};

	const partsOf = (at: Named, only?: string[]) => {
		const parts = childrenOf(at.node, WSDL, 'part').map((node) => ({
			name: attributeOf(node, 'name') ?? '',
			element: attributeOf(node, 'element'),
			type: attributeOf(node, 'type'),
			node
		}));
		return only ? parts.filter(({ name }) => only.includes(name)) : parts;
	};
	type Part = ReturnType<typeof partsOf>[number];

	const declared = (at: Named, part: Part): ElementDeclaration => {
		const plain = { nillable: false, abstract: false, doc: '', global: false };
		if (part.element !== undefined) {
			const name = readName(part.node, part.element);
			const found = schemas.element(name);
			if (found) return found;
			problem(at.path, part.node, `the part ${part.name} is of the element ${shown(name)}, which no schema defines`);
			return { ...splitName(name), ...plain, typeName: nameOf(XSD, 'anyType') };
		}
		const typeName = readName(part.node, part.type ?? '');
		return { local: part.name, namespace: '', ...plain, typeName };
	};

	interface Shape {
		rpc: boolean;
		name: string;
	}
	const messageOf = (message: Named, extension: XmlElement | undefined, { rpc, name }: Shape): SoapMessage => {
		const inMime = extension ? childOf(extension, MIME, 'multipartRelated') : undefined;
		const mimeParts = inMime ? childrenOf(inMime, MIME, 'part').flatMap(elementsOf) : [];
		const inside = [...(extension ? elementsOf(extension) : []), ...mimeParts];
		const soap = (local: string) => inside.filter((one) => SOAP_BINDINGS[one.namespace] && one.local === local);
		const [body] = soap('body');
		const attachments = mimeParts
			.filter((one) => one.namespace === MIME && one.local === 'content')
			.map((one) => ({ part: attributeOf(one, 'part') ?? '', type: attributeOf(one, 'type') ?? '*/*' }));
		const only = attributeOf(body ?? ({ attributes: [] } as never), 'parts')
			?.split(/\s+/)
			.filter(Boolean);
		const headers: ElementDeclaration[] = [];
		const inHeaders: string[] = [];
		for (const header of soap('header')) {
			const from = find('message', { node: header, path: message.path }, attributeOf(header, 'message'));
			const part = attributeOf(header, 'part') ?? '';
			if (from?.node === message.node) inHeaders.push(part);
			if (from) headers.push(...partsOf(from, [part]).map((one) => declared(from, one)));
		}
		const aside = [...inHeaders, ...attachments.map(({ part }) => part)];
		const parts = partsOf(message, only).filter((part) => !aside.includes(part.name));
		const elements = parts.map((part) => declared(message, part));
		const merged = [...new Set(attachments.map(({ part }) => part))].map((part) => ({
			part,
			types: attachments.filter((one) => one.part === part).map(({ type }) => type)
		}));
		if (!rpc) return { body: elements, headers, attachments: merged };
		const items = elements.map((element): Particle => ({ kind: 'element', min: 1, max: 1, element }));
		const wrapper: ElementDeclaration = {
			local: name,
			namespace: attributeOf(body ?? ({ attributes: [] } as never), 'namespace') ?? '',
			typeName: '',
			nillable: false,
			abstract: false,
			doc: '',
			global: false,
			made: {
				kind: 'complex',
				name: '',
				base: '',
				abstract: false,
				mixed: false,
				content: { kind: 'sequence', min: 1, max: 1, items },
				attributes: [],
				anyAttribute: false,
				doc: ''
			}
		};
		return { body: [wrapper], headers, attachments: merged };
	};

	/** Said by the port type, else by SOAP, else made of names (WS-Addressing 1.0 Metadata sections 4.4.1, 4.4.3 and 4.4.4). */
	const actionOf = (abstract: XmlElement, portType: Named, side: 'input' | 'output', soapAction: string): string => {
		const given = childOf(abstract, WSDL, side);
		const said = given?.attributes.find(
			({ local, namespace }) => local === 'Action' && ADDRESSING_METADATA.includes(namespace)
		);
		if (said) return said.value;
		if (soapAction) return soapAction;
		const namespace = documents.find(({ path }) => path === portType.path)?.namespace ?? '';
		const between = /^urn:/i.test(namespace) ? ':' : '/';
		const name = attributeOf(abstract, 'name') ?? '';
		// WSDL 1.1 section 2.4.5
		const asks = childOf(abstract, WSDL, 'output') ? `${name}Request` : name;
		const usual = side === 'input' ? asks : `${name}Response`;
		const message = (given && attributeOf(given, 'name')) ?? usual;
		return [namespace.replace(/\/$/, ''), attributeOf(portType.node, 'name') ?? '', message].join(between);
	};

	const out: SoapOperation[] = [];
	const bindingsDone = new Set<XmlElement>();
	const readPort = (service: string, port: Named, portName: string, address: string, binding: Named): void => {
		bindingsDone.add(binding.node);
		const soap = elementsOf(binding.node).find((one) => SOAP_BINDINGS[one.namespace] && one.local === 'binding');
		if (!soap) return;
		const version = SOAP_BINDINGS[soap.namespace]!;
		const transport = attributeOf(soap, 'transport') ?? '';
		if (!HTTP_TRANSPORTS.includes(transport))
			return problem(
				binding.path,
				soap,
				`the binding ${attributeOf(binding.node, 'name')} goes over ${transport}; calls go over HTTP here`
			);
		const portType = find('portType', binding, attributeOf(binding.node, 'type'));
		if (!portType) return;
		const general = [...wantsOf(binding.node, documents), ...wantsOf(port.node, documents)];
		for (const node of childrenOf(binding.node, WSDL, 'operation')) {
			const name = attributeOf(node, 'name') ?? '';
			const extension = elementsOf(node).find((one) => SOAP_BINDINGS[one.namespace] && one.local === 'operation');
			const inputName = attributeOf(childOf(node, WSDL, 'input') ?? node, 'name');
			const all = childrenOf(portType.node, WSDL, 'operation').filter((one) => attributeOf(one, 'name') === name);
			const abstract =
				all.length > 1
					? (all.find((one) => attributeOf(childOf(one, WSDL, 'input') ?? one, 'name') === inputName) ?? all[0])
					: all[0];
			if (!abstract) {
				problem(binding.path, node, `the operation ${name} is bound and its port type does not have it`);
				continue;
			}
			const style =
				((extension && attributeOf(extension, 'style')) ?? attributeOf(soap, 'style')) === 'rpc' ? 'rpc' : 'document';
			const side = (local: 'input' | 'output'): SoapMessage | undefined => {
				const given = childOf(abstract, WSDL, local);
				if (!given) return undefined;
				const message = find('message', { node: given, path: portType.path }, attributeOf(given, 'message'));
				if (!message) return { body: [], headers: [], attachments: [] };
				const shape = { rpc: style === 'rpc', name: local === 'input' ? name : `${name}Response` };
				return messageOf(message, childOf(node, WSDL, local), shape);
			};
			const input = side('input') ?? { body: [], headers: [], attachments: [] };
			const bodyOf = (local: string) =>
				elementsOf(childOf(node, WSDL, local) ?? node).find(
					(one) => SOAP_BINDINGS[one.namespace] && one.local === 'body'
				);
			const faults = childrenOf(abstract, WSDL, 'fault').flatMap((one) => {
				const message = find('message', { node: one, path: portType.path }, attributeOf(one, 'message'));
				return message
					? partsOf(message)
							.slice(0, 1)
							.map((part) => declared(message, part))
					: [];
			});
			const doc = childOf(abstract, WSDL, 'documentation');
			const same = out.filter((one) => one.service === service && one.version === version && one.name === name).length;
			out.push({
				key: `${service}.${name}${same > 0 ? `-${same + 1}` : ''}`,
				name,
				service,
				port: portName,
				version,
				address,
				action: (extension && attributeOf(extension, 'soapAction')) ?? '',
				addressingAction: actionOf(
					abstract,
					portType,
					'input',
					(extension && attributeOf(extension, 'soapAction')) ?? ''
				),
				answerAction: actionOf(abstract, portType, 'output', ''),
				style,
				use: attributeOf(bodyOf('input') ?? node, 'use') === 'encoded' ? 'encoded' : 'literal',
				namespace: attributeOf(bodyOf('input') ?? node, 'namespace') ?? '',
				input,
				output: side('output'),
				faults,
				doc: doc ? textIn(doc).replace(/\s+/g, ' ').trim() : '',
				wants: [...new Set([...general, ...wantsOf(node, documents)])]
			});
		}
	};

	for (const { path, root } of documents)
		for (const service of childrenOf(root, WSDL, 'service')) {
			const versions = new Set<string>();
			for (const node of childrenOf(service, WSDL, 'port')) {
				const at = { node, path };
				const location = elementsOf(node).find((one) => SOAP_BINDINGS[one.namespace] && one.local === 'address');
				if (!location) continue;
				const binding = find('binding', at, attributeOf(node, 'binding'));
				if (!binding) continue;
				// a second port of the same version is another service to whoever calls: named by both
				const version = SOAP_BINDINGS[location.namespace]!;
				const name = attributeOf(service, 'name') ?? '';
				const port = attributeOf(node, 'name') ?? '';
				const known = versions.has(version);
				versions.add(version);
				readPort(known ? `${name}-${port}` : name, at, port, attributeOf(location, 'location') ?? '', binding);
			}
		}
	// what no service offers can be called all the same, at an address of one's own
	for (const [key, found] of named)
		if (key.startsWith('binding ') && !bindingsDone.has(found.node))
			readPort(attributeOf(found.node, 'name') ?? '', found, '', '', found);
	return out;
}

const POLICY = /ws-policy|\/policy$|ns\/ws-policy/;
const WANTS: Record<string, string> = {
	UsernameToken: 'user name and password',
	HashPassword: 'password digest',
	IncludeTimestamp: 'timestamp',
	X509Token: 'X.509 certificate',
	SamlToken: 'SAML token',
	KerberosToken: 'Kerberos ticket',
	SignedParts: 'signature',
	EncryptedParts: 'encryption',
	TransportBinding: 'HTTPS',
	OptimizedMimeSerialization: 'MTOM',
	UsingAddressing: 'WS-Addressing',
	Addressing: 'WS-Addressing'
};

/** What the policies at a node ask for (WS-Policy 1.2 and 1.5, WS-SecurityPolicy), as far as their names tell. */
function wantsOf(node: XmlElement, documents: Documents): string[] {
	const out: string[] = [];
	const look = (at: XmlElement, deep: number): void => {
		if (Object.hasOwn(WANTS, at.local) && /polic|addressing/i.test(at.namespace)) out.push(WANTS[at.local]!);
		if (deep < 50) for (const child of elementsOf(at)) look(child, deep + 1);
	};
	const policies = documents.flatMap(({ root }) => elementsOf(root)).filter((one) => one.local === 'Policy');
	const references = elementsOf(node).flatMap((one) =>
		one.local === 'PolicyReference' ? [attributeOf(one, 'URI') ?? ''] : []
	);
	const named = (attributeOf(node, 'PolicyURIs', namespaceOf(node, 'wsp') ?? '') ?? '').split(/\s+/).filter(Boolean);
	for (const child of elementsOf(node))
		if ((child.local === 'Policy' && POLICY.test(child.namespace)) || child.local === 'UsingAddressing') look(child, 0);
	for (const id of [...references, ...named]) {
		const found = policies.find((one) =>
			one.attributes.some(({ local, value }) => local === 'Id' && `#${value}` === id)
		);
		if (found) look(found, 0);
	}
	return out;
}
