import { mediaType } from '../model/reply.ts';
import type { ReplyView } from '../model/view.ts';
import type { SchemaTexts, XmlPort } from '../model/xml.ts';
import { ENVELOPE } from './envelope.ts';
import { schemaFiles } from './schema-files.ts';
import { cutOut, elementsOf, lineAt, nameOf, parseXml, splitName, type XmlElement } from './tree.ts';
import type { FoundOperation } from './shelf.ts';
import type { Definition, SoapOperation, SoapVersion } from './wsdl.ts';

/** One thing in a message that is not as the definition has it. */
export interface EnvelopeFault {
	message: string;
	/** In the envelope, from 1. */
	line: number;
	/** As an XPath whose names have no prefixes, where that is known. */
	path?: string;
}

const texts = new WeakMap<Definition, SchemaTexts>();
export function schemaTexts(definition: Definition): SchemaTexts {
	const kept = texts.get(definition);
	if (kept) return kept;
	const made = schemaFiles(definition);
	texts.set(definition, made);
	return made;
}

/** What an envelope holds; faults in words where it is none (SOAP 1.1 section 4, SOAP 1.2 part 1 section 5). */
export function openEnvelope(text: string): {
	version: SoapVersion;
	root: XmlElement;
	header: XmlElement[];
	body: XmlElement[];
} {
	const root = parseXml(text);
	const version = (Object.keys(ENVELOPE) as SoapVersion[]).find((one) => ENVELOPE[one] === root.namespace);
	if (root.local !== 'Envelope') throw new Error(`the answer is no envelope: its root is ${root.local}`);
	if (!version)
		throw new Error(`the envelope is of neither SOAP 1.1 nor 1.2: its namespace is ${root.namespace || 'missing'}`);
	const inside = (local: string) =>
		elementsOf(root).find((one) => one.local === local && one.namespace === root.namespace);
	const body = inside('Body');
	if (!body) throw new Error('the envelope has no Body');
	const header = inside('Header');
	return { version, root, header: header ? elementsOf(header) : [], body: elementsOf(body) };
}

const shown = (name: string): string => splitName(name).local;

/**
 * Holds a message against its definition: version, the elements of the body, and their content by the schemas.
 * @param side whether it is what is sent, or what came back
 */
export async function contractFaults(
	text: string,
	side: 'input' | 'output',
	{ definition, operation }: { definition: Definition; operation: SoapOperation },
	xml: XmlPort
): Promise<EnvelopeFault[]> {
	let opened: ReturnType<typeof openEnvelope>;
	try {
		opened = openEnvelope(text);
	} catch (error) {
		const [, line = '1', message] = /^(?:line (\d+): )?([\s\S]*)$/.exec((error as Error).message)!;
		return [{ message: message!, line: Number(line) }];
	}
	const faults: EnvelopeFault[] = [];
	const { version, body } = opened;
	if (version !== operation.version)
		faults.push({
			message: `SOAP ${operation.version} was agreed on, and this is an envelope of SOAP ${version}`,
			line: opened.root.line
		});
	const message = side === 'input' ? operation.input : operation.output;
	const fault = body.find((one) => one.local === 'Fault' && one.namespace === ENVELOPE[version]);
	const check = async (element: XmlElement, path: string) => {
		// arrays of SOAP 1.1 section 5 may point from one element to another, which no schema can say
		if (operation.use === 'encoded' && element.attributes.some(({ local }) => local === 'href')) return;
		const piece = cutOut(element, text);
		// that something is an array in general says nothing of the type that it has here
		const plain =
			operation.use === 'encoded' ? piece.replace(/\s[\w.-]+:type\s*=\s*(["'])[\w.-]+:Array\1/g, '') : piece;
		for (const found of await xml.validateWith(plain, schemaTexts(definition)))
			faults.push({
				message: found.message,
				line: found.line,
				path: found.path ? `${path}${found.path.replace(/^\/[^/]*/, '').replace(/\/[\w.-]+:/g, '/')}` : path
			});
	};
	if (fault) {
		if (side === 'input') faults.push({ message: 'a fault is sent', line: fault.line });
		const [detail] = elementsOf(fault).filter((one) => one.local === 'detail' || one.local === 'Detail');
		for (const one of detail ? elementsOf(detail) : []) {
			const name = nameOf(one.namespace, one.local);
			if (operation.faults.some(({ local, namespace }) => nameOf(namespace, local) === name))
				await check(one, `//${one.local}`);
		}
		return faults;
	}
	if (!message) {
		if (body.length > 0)
			faults.push({
				message: `${operation.name} has no answer, and this holds ${body[0]!.local}`,
				line: body[0]!.line
			});
		return faults;
	}
	const wanted = message.body.map(({ namespace, local }) => nameOf(namespace, local));
	for (const [index, name] of wanted.entries()) {
		const got = body[index];
		// the name of an RPC answer says nothing (SOAP 1.1 section 7.1)
		const matches =
			got && (nameOf(got.namespace, got.local) === name || (operation.style === 'rpc' && side === 'output'));
		if (matches) {
			if (nameOf(got.namespace, got.local) === name) await check(got, `/Envelope/Body/${got.local}`);
			continue;
		}
		const other =
			got && got.local === shown(name)
				? ` in the namespace ${got.namespace || '(none)'}, and ${splitName(name).namespace || 'none'}`
				: '';
		faults.push({
			message: got
				? other
					? `the body holds ${got.local}${other} is wanted`
					: `the body holds ${got.local} where ${shown(name)} is wanted`
				: `the body holds no ${shown(name)}`,
			line: got?.line ?? lineAt(text, opened.root.closing)
		});
	}
	for (const extra of body.slice(wanted.length))
		if (operation.use !== 'encoded')
			faults.push({
				message: `the body holds ${extra.local}, which ${operation.name} does not have`,
				line: extra.line
			});
	return faults;
}

const MEDIA: Record<SoapVersion, string> = { '1.1': 'text/xml', '1.2': 'application/soap+xml' };

/** What in a reply is not as its definition has it: media type, envelope, and content. */
export async function replyFaults(view: ReplyView, found: FoundOperation, xml: XmlPort): Promise<EnvelopeFault[]> {
	const { version } = found.operation;
	const { type } = mediaType(view.reply.headers);
	const wanted = MEDIA[version];
	// nothing needs to come back where no answer is defined
	if (view.reply.body.length === 0 && !found.operation.output) return [];
	if (view.reply.body.length === 0) return [{ message: 'the reply has no body', line: 1 }];
	const faults = await contractFaults(view.message, 'output', found, xml);
	if (type !== wanted && type !== 'multipart/related')
		faults.push({ message: `Content-Type is ${type || 'missing'}, and SOAP ${version} is sent as ${wanted}`, line: 1 });
	return faults;
}
