import { HeronError, textOf } from '../errors.ts';
import { decodeText, namedCharset } from '../values/index.ts';
import { parseJson, type Json } from './json.ts';
import { readRelated, withoutXop } from './related.ts';
import {
	cookiesSent,
	fieldText,
	headerValue,
	headerValues,
	isJsonType,
	mediaType,
	type HeaderList,
	type Reply
} from './reply.ts';
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

class View implements ReplyView {
	readonly reply: Reply;
	readonly #xml: XmlPort | undefined;
	readonly #declared: Namespaces;
	#text: string | undefined;
	#message: string | undefined;
	#parsed: { value: Json } | { error: HeronError } | undefined;
	#opened: Promise<XmlHandle> | undefined;

	constructor(reply: Reply, xml: XmlPort | undefined, declared: Namespaces) {
		this.reply = reply;
		this.#xml = xml;
		this.#declared = declared;
	}

	get text(): string {
		return (this.#text ??= replyText(this.reply.body, this.reply.headers).text);
	}

	get message(): string {
		// attachments travel beside an envelope: the envelope is what is read
		return (this.#message ??= isRelated(this.reply.headers) ? rootText(this.reply) : this.text);
	}

	#parse(): { value: Json } | { error: HeronError } {
		if (this.#parsed) return this.#parsed;
		try {
			return (this.#parsed = { value: parseJson(this.text) });
		} catch (cause) {
			const start = shortened(this.text.trim(), 40);
			const detail = start ? `${textOf(cause)} (it starts with: ${start})` : 'it is empty';
			return (this.#parsed = { error: new HeronError('selector.body', { detail }, { cause }) });
		}
	}

	json(): Json {
		const result = this.#parse();
		if ('error' in result) throw result.error;
		return result.value;
	}

	body(): Json {
		const { type } = mediaType(this.reply.headers);
		if (!isJsonType(type) && !/^\s*[[{]/.test(this.text.slice(0, 100))) return this.text;
		const result = this.#parse();
		return 'value' in result ? result.value : this.text;
	}

	header(name: string): string | undefined {
		const octets = headerValue(this.reply.headers, name);
		return octets === undefined ? undefined : fieldText(octets);
	}

	cookie(name: string): string | undefined {
		for (const line of headerValues(this.reply.headers, 'set-cookie')) {
			const pair = line.split(';')[0]!;
			const at = pair.indexOf('=');
			if (at > 0 && pair.slice(0, at).trim() === name) return fieldText(pair.slice(at + 1).trim());
		}
		return undefined;
	}

	#needXml(): XmlPort {
		if (!this.#xml) throw new HeronError('selector.noXml');
		return this.#xml;
	}

	#openXml(): Promise<XmlHandle> {
		const port = this.#needXml();
		const whole = port.open(this.message);
		// XHTML is XML, whatever it is called
		return mediaType(this.reply.headers).type === 'text/html' ? whole.catch(() => port.openHtml(this.text)) : whole;
	}

	async xpath(expression: string, markup = false): Promise<XPathValue> {
		const handle = await (this.#opened ??= this.#openXml());
		const { '': _, ...namespaces } = namespacesOf(this.message);
		void _;
		return handle.xpath(expression, { ...namespaces, ...this.#declared }, markup);
	}

	async validateXml(file: string): Promise<XmlFault[]> {
		return this.#needXml().validate(this.message, file);
	}

	close(): void {
		this.#opened?.then((handle) => handle.close()).catch(() => {});
		this.#opened = undefined;
	}
}

/**
 * Looks at a reply; without `xml` an XML body is text alone.
 * @param declared namespaces of the project and the connection; they go before those that the reply declares
 */
export const viewReply = (reply: Reply, xml?: XmlPort, declared: Namespaces = {}): ReplyView =>
	new View(reply, xml, declared);

class RequestView extends View {
	override cookie(name: string): string | undefined {
		const sent = cookiesSent(this.reply.headers);
		return Object.hasOwn(sent, name) ? sent[name] : undefined;
	}
}

/** Looks at a request as at a reply: at its header fields, the cookies that it sends, and its body. */
export const viewRequest = (
	{ headers, body }: { headers: HeaderList; body: Uint8Array },
	xml?: XmlPort,
	declared: Namespaces = {}
): ReplyView => new RequestView({ ...BLANK, headers, body, wireSize: body.length }, xml, declared);
