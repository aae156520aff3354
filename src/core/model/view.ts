import { HeronError, textOf } from '../errors.ts';
import { decodeText, namedCharset } from '../values/index.ts';
import { parseJson, type Json } from './json.ts';
import { readRelated, withoutXop } from './related.ts';
import { fieldText, headerValue, headerValues, isJsonType, mediaType, type HeaderList, type Reply } from './reply.ts';
import { shortened } from './shortened.ts';
import { namespacesOf, type Namespaces, type XmlFault, type XmlHandle, type XmlPort, type XPathValue } from './xml.ts';

/** A reply with its text and parsed body, each computed when first asked for. */
export interface ReplyView {
	readonly reply: Reply;
	readonly text: string;
	/** The text of the message: of the root part, where others travel beside it. @throws HeronError selector.xml */
	readonly message: string;
	/** The body as data. @throws HeronError selector.body when it is not JSON */
	json(): Json;
	/** The body as data when it is JSON, else its text. */
	body(): Json;
	header(name: string): string | undefined;
	cookie(name: string): string | undefined;
	/**
	 * What an XPath expression gives.
	 * @param markup elements that hold elements are given as XML, not as their text
	 * @throws HeronError selector.*
	 */
	xpath(expression: string, markup?: boolean): Promise<XPathValue>;
	/** What is wrong with the body by an XSD of the project. */
	validateXml(file: string): Promise<XmlFault[]>;
	/** Gives memory back that the garbage collector does not see. */
	close(): void;
}

/** The text of a body: in the charset that the header names, else the one that the bytes themselves name, else UTF-8. */
export const replyText = (body: Uint8Array, headers: HeaderList) =>
	decodeText(body, mediaType(headers).charset ?? namedCharset(body));

const isRelated = (headers: HeaderList): boolean => mediaType(headers).type === 'multipart/related';

function rootText(reply: Reply): string {
	try {
		const { root, parts } = readRelated(reply.body, headerValue(reply.headers, 'content-type') ?? '');
		return withoutXop(replyText(root.bytes, [['content-type', root.type]]).text, parts);
	} catch (cause) {
		throw new HeronError('selector.xml', { detail: textOf(cause) }, { cause });
	}
}

const BLANK: Pick<Reply, 'status' | 'reason' | 'version' | 'phases' | 'reused'> = {
	...{ status: 0, reason: '', version: '1.1', reused: false },
	phases: { name: 0, connect: 0, tls: 0, send: 0, wait: 0, body: 0, total: 0 }
};

/** Looks at a request as at a reply: at its header fields and its body. */
export const viewRequest = (
	{ headers, body }: { headers: HeaderList; body: Uint8Array },
	xml?: XmlPort,
	declared: Namespaces = {}
): ReplyView => viewReply({ ...BLANK, headers, body, wireSize: body.length }, xml, declared);

/**
 * Looks at a reply; without `xml` an XML body is text alone.
 * @param declared namespaces of the project and the connection; they go before those that the reply declares
 */
export function viewReply(reply: Reply, xml?: XmlPort, declared: Namespaces = {}): ReplyView {
	let text: string | undefined;
	let message: string | undefined;
	let opened: Promise<XmlHandle> | undefined;
	const needXml = (): XmlPort => {
		if (!xml) throw new HeronError('selector.noXml');
		return xml;
	};
	const openXml = (): Promise<XmlHandle> => {
		const port = needXml();
		const whole = port.open(readMessage());
		// XHTML is XML, whatever it is called
		return mediaType(reply.headers).type === 'text/html' ? whole.catch(() => port.openHtml(readText())) : whole;
	};
	let parsed: { value: Json } | { error: HeronError } | undefined;
	const readText = () => (text ??= replyText(reply.body, reply.headers).text);
	// attachments travel beside an envelope: the envelope is what is read
	const readMessage = () => (message ??= isRelated(reply.headers) ? rootText(reply) : readText());
	const parse = () => {
		if (!parsed) {
			try {
				parsed = { value: parseJson(readText()) };
			} catch (cause) {
				const start = shortened(readText().trim(), 40);
				const detail = start ? `${textOf(cause)} (it starts with: ${start})` : 'it is empty';
				parsed = { error: new HeronError('selector.body', { detail }, { cause }) };
			}
		}
		return parsed;
	};
	return {
		reply,
		get text() {
			return readText();
		},
		get message() {
			return readMessage();
		},
		json() {
			const result = parse();
			if ('error' in result) throw result.error;
			return result.value;
		},
		body() {
			const { type } = mediaType(reply.headers);
			if (!isJsonType(type) && !/^\s*[[{]/.test(readText().slice(0, 100))) return readText();
			const result = parse();
			return 'value' in result ? result.value : readText();
		},
		header(name) {
			const octets = headerValue(reply.headers, name);
			return octets === undefined ? undefined : fieldText(octets);
		},
		cookie(name) {
			for (const line of headerValues(reply.headers, 'set-cookie')) {
				const pair = line.split(';')[0]!;
				const at = pair.indexOf('=');
				if (at > 0 && pair.slice(0, at).trim() === name) return fieldText(pair.slice(at + 1).trim());
			}
			return undefined;
		},
		async xpath(expression, markup = false) {
			const handle = await (opened ??= openXml());
			const { '': _, ...namespaces } = namespacesOf(readMessage());
			void _;
			return handle.xpath(expression, { ...namespaces, ...declared }, markup);
		},
		validateXml: async (file) => needXml().validate(readMessage(), file),
		close() {
			opened?.then((handle) => handle.close()).catch(() => {});
			opened = undefined;
		}
	};
}
