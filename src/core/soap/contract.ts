import { mediaType } from '../model/reply.ts';
import type { ReplyView } from '../model/view.ts';
import type { SchemaTexts, XmlPort } from '../model/xml.ts';
import { ENVELOPE } from './envelope.ts';
import { schemaFiles } from './schema-files.ts';
import { declaredDetail, faultShape, statusFault } from './fault-shape.ts';
import { withoutReferences } from './multi-ref.ts';
import { cutOut, elementsOf, escapeAttribute, lineAt, parseXml, type XmlElement } from './tree.ts';
import type { ElementDeclaration } from './schema/index.ts';
import type { FoundOperation } from './registry.ts';
import type { Definition, SoapOperation, SoapVersion } from './wsdl/index.ts';

/** One thing in a message that is not as the definition has it. */
export interface EnvelopeFault {
	message: string;
	/** In the envelope, from 1. */
	line: number;
	/** As an XPath whose names have no prefixes, where that is known. */
	path?: string;
}

const texts = new WeakMap<Definition, SchemaTexts>();
/** The schemas of a definition as texts that a validator takes, made once for each definition. */
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

/** A message that is held against its definition. */
interface Held {
	text: string;
	opened: ReturnType<typeof openEnvelope>;
	definition: Definition;
	operation: SoapOperation;
	xml: XmlPort;
	say(message: string, element: Pick<XmlElement, 'line'>): void;
	faults: EnvelopeFault[];
}

/**
 * Holds a message against its definition: version, the elements of the body, and their content by the schemas; of an
 * answer also whether a fault is one that is declared.
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
	const say = (message: string, { line }: Pick<XmlElement, 'line'>) => void faults.push({ message, line });
	const held: Held = { text, opened, definition, operation, xml, say, faults };
	const { version, root, body } = opened;
	if (version !== operation.version)
		say(`SOAP ${operation.version} was agreed on, and this is an envelope of SOAP ${version}`, root);
	const message = side === 'input' ? operation.input : operation.output;
	const fault = body.find((one) => one.local === 'Fault' && one.namespace === ENVELOPE[version]);
	if (fault && side === 'input') say('a fault is sent', fault);
	else if (fault) await lookAtFault(fault, held);
	else if (message) await lookAtBody(message.body, side, held);
	else if (body.length > 0) say(`${operation.name} has no answer, and this holds ${body[0]!.local}`, body[0]!);
	return faults;
}

/** By its schema. @param piece the element as a text of its own */
async function lookAtElement(piece: string, path: string, { definition, operation, xml, faults }: Held): Promise<void> {
	// that something is an array in general says nothing of the type that it has here
	const plain = operation.use === 'encoded' ? piece.replace(/\s[\w.-]+:type\s*=\s*(["'])[\w.-]+:Array\1/g, '') : piece;
	for (const found of await xml.validateWith(plain, schemaTexts(definition)))
		faults.push({
			message: found.message,
			line: found.line,
			path: found.path ? `${path}${found.path.replace(/^\/[^/]*/, '').replace(/\/[\w.-]+:/g, '/')}` : path
		});
}

async function lookAtFault(fault: XmlElement, held: Held): Promise<void> {
	for (const { message, element } of faultShape(fault, held.opened.version)) held.say(message, element);
	const { declared, said } = declaredDetail(fault, held.operation);
	for (const { message, element } of said) held.say(message, element);
	for (const one of declared) await lookAtElement(cutOut(one, held.text), `//${one.local}`, held);
}

async function lookAtBody(
	elements: readonly ElementDeclaration[],
	side: 'input' | 'output',
	held: Held
): Promise<void> {
	const { text, opened, operation, say } = held;
	const { body } = opened;
	const encoded = operation.use === 'encoded';
	for (const [index, declared] of elements.entries()) {
		const { namespace, local } = declared;
		const got = body[index];
		const named = got?.namespace === namespace && got.local === local;
		// the name of an encoded RPC answer says nothing (SOAP 1.1 section 7.1); that of a literal one does (BP 1.1 R2729)
		const anyName = operation.style === 'rpc' && side === 'output' && encoded;
		if (got && (named || anyName)) {
			const whole = encoded ? withoutReferences(got, body, text) : undefined;
			const cut = whole ?? cutOut(got, text);
			const piece = anyName ? withReturn(cut, declared) : cut;
			await lookAtElement(named ? piece : renamed(piece, namespace, local), `/Envelope/Body/${got.local}`, held);
			continue;
		}
		if (!got) say(`the body holds no ${local}`, { line: lineAt(text, opened.root.closing) });
		else if (got.local !== local) say(`the body holds ${got.local} where ${local} is wanted`, got);
		else
			say(
				`the body holds ${local} in the namespace ${got.namespace || '(none)'}, and ${namespace || 'none'} is wanted`,
				got
			);
	}
	for (const extra of body.slice(elements.length))
		if (!encoded) say(`the body holds ${extra.local}, which ${operation.name} does not have`, extra);
}

/** The answer of an encoded call, its first value by the name of its part: that name says nothing (SOAP 1.1 section 7.1). */
function withReturn(piece: string, { made }: ElementDeclaration): string {
	const content = made?.kind === 'complex' ? made.content : undefined;
	const parts = content?.kind === 'sequence' ? content.items : [];
	const names = parts.flatMap((one) => (one.kind === 'element' ? [one.element.local] : []));
	const root = parseXml(piece);
	const [first] = elementsOf(root);
	if (!first || names.length === 0 || names.includes(first.local)) return piece;
	return (
		piece.slice(0, first.start) + renamed(piece.slice(first.start, first.end), '', names[0]!) + piece.slice(first.end)
	);
}

/** A piece whose root bears another name. */
const renamed = (piece: string, namespace: string, local: string): string => {
	const name = /<([^\s/>]+)/.exec(piece)![1]!;
	const own = namespace ? `heron:${local}` : local;
	const declared = namespace ? ` xmlns:heron="${escapeAttribute(namespace)}"` : '';
	if (/\/>\s*$/.test(piece) && !piece.includes('</')) return piece.replace(`<${name}`, () => `<${own}${declared}`);
	return piece
		.replace(`<${name}`, () => `<${own}${declared}`)
		.replace(new RegExp(`</${name.replace(/[.]/g, '\\.')}(\\s*)>\\s*$`), (_, space: string) => `</${own}${space}>`);
};

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
	const said = statusSaid(view.message, view.reply.status);
	if (said) faults.push({ message: said, line: 1 });
	if (type !== wanted && type !== 'multipart/related')
		faults.push({ message: `Content-Type is ${type || 'missing'}, and SOAP ${version} is sent as ${wanted}`, line: 1 });
	return faults;
}

function statusSaid(text: string, status: number): string | undefined {
	try {
		const { version, body } = openEnvelope(text);
		const isFault = body.some(({ local, namespace }) => local === 'Fault' && namespace === ENVELOPE[version]);
		return statusFault(status, isFault, version);
	} catch {
		// what is no envelope is told as that
		return undefined;
	}
}
