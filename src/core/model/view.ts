import { HeronError, textOf } from '../errors.ts';
import { decodeText, latin1 } from '../values/index.ts';
import { parseJson, type Json } from './json.ts';
import { headerValue, headerValues, isJsonType, mediaType, type HeaderList, type Reply } from './reply.ts';
import { namespacesOf, type XmlFault, type XmlHandle, type XmlPort, type XPathValue } from './xml.ts';

/** A reply with its text and parsed body, each computed when first asked for. */
export interface ReplyView {
	readonly reply: Reply;
	readonly text: string;
	/** The body as data. @throws HeronError selector.body when it is not JSON */
	json(): Json;
	/** The body as data when it is JSON, else its text. */
	body(): Json;
	header(name: string): string | undefined;
	cookie(name: string): string | undefined;
	/** What an XPath expression gives. @throws HeronError selector.* */
	xpath(expression: string): Promise<XPathValue>;
	/** What is wrong with the body by an XSD of the project. */
	validateXml(file: string): Promise<XmlFault[]>;
	/** Gives memory back that the garbage collector does not see. */
	close(): void;
}

/** The text of a body: in the charset that the header names, else the one that the bytes themselves name, else UTF-8. */
export const replyText = (body: Uint8Array, headers: HeaderList) =>
	decodeText(body, mediaType(headers).charset ?? namedCharset(body));

/** The charset that a byte-order mark or an XML declaration names (XML 1.0 section 4.3.3). */
function namedCharset(body: Uint8Array): string | undefined {
	if (body[0] === 0xfe && body[1] === 0xff) return 'utf-16be';
	if (body[0] === 0xff && body[1] === 0xfe) return 'utf-16le';
	return /^<\?xml[^>]*\bencoding\s*=\s*["']([\w.:-]+)/.exec(latin1(body.subarray(0, 200)))?.[1];
}

/** Looks at a reply; without `xml` an XML body is text alone. */
export function viewReply(reply: Reply, xml?: XmlPort): ReplyView {
	let text: string | undefined;
	let opened: Promise<XmlHandle> | undefined;
	const needXml = (): XmlPort => {
		if (!xml) throw new HeronError('selector.failed', { detail: 'XML cannot be read here' });
		return xml;
	};
	let parsed: { value: Json } | { error: HeronError } | undefined;
	const readText = () => (text ??= replyText(reply.body, reply.headers).text);
	const parse = () => {
		if (!parsed) {
			try {
				parsed = { value: parseJson(readText()) };
			} catch (cause) {
				const start = readText().slice(0, 40).trim();
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
		header: (name) => headerValue(reply.headers, name),
		cookie(name) {
			for (const line of headerValues(reply.headers, 'set-cookie')) {
				const pair = line.split(';')[0]!;
				const at = pair.indexOf('=');
				if (at > 0 && pair.slice(0, at).trim() === name) return pair.slice(at + 1).trim();
			}
			return undefined;
		},
		async xpath(expression) {
			const handle = await (opened ??= needXml().open(readText()));
			const { '': _, ...namespaces } = namespacesOf(readText());
			void _;
			return handle.xpath(expression, namespaces);
		},
		validateXml: async (file) => needXml().validate(readText(), file),
		close() {
			opened?.then((handle) => handle.close()).catch(() => {});
			opened = undefined;
		}
	};
}
