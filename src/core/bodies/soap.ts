import { HeronError } from '../errors.ts';
import { didYouMean } from '../messages.ts';
import { isObject, type JsonObject } from '../model/json.ts';
import { parseSoap, SOAP_FIELDS, type SoapOperation } from '../soap/index.ts';
import { base64ToBytes, bytesToHex, escapeXml, joinBytes, utf8, uuidOf } from '../values/index.ts';
import { typeOfFile } from './file.ts';
import type { BodyKind, BodyTools, BuiltBody } from './kind.ts';

const ADDRESSING = 'http://www.w3.org/2005/08/addressing';

/** Writes the fields of WS-Addressing 1.0 (SOAP binding section 3) into the header of an envelope. */
function addressed(
	text: string,
	{ addressingAction: action }: SoapOperation,
	{ address, evaluator, randomBytes }: BodyTools
): string {
	const field = (name: string, value: string) => `<wsa:${name} xmlns:wsa="${ADDRESSING}">${value}</wsa:${name}>`;
	return inHeader(text, [
		field('To', escapeXml(evaluator.bare(address))),
		field('Action', escapeXml(action)),
		field('MessageID', `urn:uuid:${uuidOf(randomBytes(16))}`),
		field('ReplyTo', `<wsa:Address>${ADDRESSING}/anonymous</wsa:Address>`)
	]);
}

/** An envelope with further entries of its header, before those that are there. */
export function inHeader(text: string, entries: string[]): string {
	const found = /<((?:[\w.-]+:)?)Envelope\b(?:[^>"']|"[^"]*"|'[^']*')*>/.exec(text);
	if (!found) return text;
	const prefix = found[1]!;
	const after = found.index + found[0].length;
	const header = new RegExp(`^(?:\\s|<!--[\\s\\S]*?-->)*<${prefix}Header\\b((?:[^>"'/]|"[^"]*"|'[^']*')*)(/?)>`).exec(
		text.slice(after)
	);
	const lines = entries.map((entry) => `\n    ${entry}`).join('');
	if (!header) return `${text.slice(0, after)}\n  <${prefix}Header>${lines}\n  </${prefix}Header>${text.slice(after)}`;
	const at = after + header[0].length;
	if (!header[2]) return text.slice(0, at) + lines + text.slice(at);
	return `${text.slice(0, at).replace(/\s*\/>$/, '>')}${lines}\n  </${prefix}Header>${text.slice(at)}`;
}

function checkAttachments(value: unknown, report: Parameters<BodyKind['check']>[1]): void {
	if (!Array.isArray(value))
		return report(['attachments'], 'a list of files is wanted, each as { file: files/scan.pdf }');
	value.forEach((one: unknown, index) => {
		if (!isObject(one) || typeof one.file !== 'string' || !one.file.trim())
			return report(['attachments', index], 'a file is wanted, such as { file: files/scan.pdf }');
		for (const key of Object.keys(one))
			// they become header fields of the part
			if (['id', 'type'].includes(key) && !/^[\x20-\x7e]+$/.test(String(one[key])))
				report(['attachments', index, key], 'letters of ASCII are wanted, in one line');
			else if (!['file', 'id', 'type'].includes(key))
				report(['attachments', index, key], `unknown key "${key}"${didYouMean(key, ['file', 'id', 'type'])}`);
	});
}

/** The Content-Type of a message (SOAP 1.1 section 6, SOAP 1.2 part 2 section 7.1.4). */
export const soapType = ({ version, action }: Pick<SoapOperation, 'version' | 'action'>): string =>
	version === '1.1'
		? 'text/xml; charset=utf-8'
		: `application/soap+xml; charset=utf-8${action ? `; action="${action.replace(/["\\]/g, '\\$&')}"` : ''}`;

interface Part {
	id: string;
	type: string;
	bytes: Uint8Array;
}

/** Bytes that travel as a part of their own, and what stands for them in the envelope (XOP 1.0 section 3.1). */
function beside(base64: string, parts: Part[], { randomBytes }: BodyTools): string {
	let bytes: Uint8Array;
	try {
		bytes = base64ToBytes(base64);
	} catch {
		// what is no Base64 stays where it is, so that it can be sent on purpose
		return escapeXml(base64);
	}
	const id = `part-${bytesToHex(randomBytes(8))}`;
	parts.push({ id, type: 'application/octet-stream', bytes });
	return `<xop:Include xmlns:xop="http://www.w3.org/2004/08/xop/include" href="cid:${id}"/>`;
}

/** The envelope with its parts (RFC 2387; MTOM section 4.3.1, SOAP Messages with Attachments section 3). */
function related(
	root: BuiltBody,
	parts: Part[],
	operation: SoapOperation,
	mtom: boolean,
	{ randomBytes }: BodyTools
): BuiltBody {
	const boundary = `heron-${bytesToHex(randomBytes(12))}`;
	const media = operation.version === '1.1' ? 'text/xml' : 'application/soap+xml';
	const own = mtom ? `application/xop+xml; charset=utf-8; type="${media}"` : root.contentType;
	const chunks = [
		utf8(`--${boundary}\r\nContent-Type: ${own}\r\nContent-ID: <envelope>\r\n\r\n`),
		root.bytes,
		...parts.flatMap(({ id, type, bytes }) => [
			utf8(
				`\r\n--${boundary}\r\nContent-Type: ${type}\r\nContent-Transfer-Encoding: binary\r\nContent-ID: <${id.replace(/[\s<>]/g, '-')}>\r\n\r\n`
			),
			bytes
		]),
		utf8(`\r\n--${boundary}--\r\n`)
	];
	const info = mtom ? `; start-info="${media}"` : '';
	const action = operation.version === '1.2' && operation.action ? `; action="${operation.action}"` : '';
	const type = mtom ? 'application/xop+xml' : media;
	return {
		bytes: joinBytes(chunks),
		contentType: `multipart/related; type="${type}"; start="<envelope>"${info}; boundary="${boundary}"${action}`
	};
}

export const soap: BodyKind<'soap'> = {
	key: 'soap',
	label: 'SOAP',
	doc: 'A call of an operation of a WSDL in definitions/: values, which are written as an envelope in the order of its schema, or the envelope itself. SOAPAction and Content-Type come by themselves.',
	example: { operation: 'TollLedger.QuoteToll', version: '1.1', values: { lock: 'Staithe Lock', length: 12.5 } },
	fresh: { operation: '' },
	files: (value) => parseSoap(value).attachments.map(({ file }) => file),
	schema: {
		type: 'object',
		required: ['operation'],
		properties: {
			operation: { type: 'string', description: 'Service.Operation' },
			version: { enum: ['1.1', '1.2', 1.1, 1.2] },
			definition: { type: 'string', description: 'The file in definitions/, where several know the operation.' },
			values: { description: 'Elements by name, attributes as @name, text beside attributes as #text; null for nil.' },
			headers: { type: 'object', description: 'Entries of the header that the definition knows, by name.' },
			envelope: { type: 'string', description: 'The envelope as text, in place of values.' },
			mtom: { type: 'boolean', description: 'Contents in Base64 travel as parts beside the envelope (MTOM).' },
			attachments: {
				type: 'array',
				description: 'Files that travel beside the envelope; it speaks of them as cid:ID.',
				items: {
					type: 'object',
					required: ['file'],
					properties: { file: { type: 'string' }, id: { type: 'string' }, type: { type: 'string' } },
					additionalProperties: false
				}
			},
			unknown: {
				type: 'boolean',
				description: 'Values that the definition does not know are sent all the same, behind those that it knows.'
			},
			addressing: { type: 'boolean', description: 'Adds To, Action, MessageID and ReplyTo of WS-Addressing 1.0.' }
		},
		additionalProperties: false
	},
	check(value, report) {
		if (!isObject(value)) return report([], 'an operation with values is wanted, such as operation: Service.Operation');
		for (const key of Object.keys(value))
			if (!SOAP_FIELDS.includes(key)) report([key], `unknown key "${key}"${didYouMean(key, SOAP_FIELDS)}`);
		if (typeof value.operation !== 'string' || !value.operation.trim())
			report(['operation'], 'an operation is wanted, such as TollLedger.RecordPassage');
		if (value.version !== undefined && !['1.1', '1.2'].includes(String(value.version)))
			report(['version'], 'SOAP 1.1 or 1.2 is wanted');
		if (value.envelope !== undefined && typeof value.envelope !== 'string') report(['envelope'], 'a text is wanted');
		if (value.envelope !== undefined && value.values !== undefined)
			report(['envelope'], 'values or the envelope are given, not both');
		if (value.headers !== undefined && !isObject(value.headers)) report(['headers'], 'names with values are wanted');
		for (const flag of ['addressing', 'mtom', 'unknown'])
			if (value[flag] !== undefined && typeof value[flag] !== 'boolean') report([flag], 'true or false is wanted');
		if (value.attachments !== undefined) checkAttachments(value.attachments, report);
	},
	async build(value, tools) {
		const { evaluator, scope, wsdls } = tools;
		const spec = parseSoap(value);
		const name = evaluator.bare(await evaluator.text(spec.operation, scope));
		const found = wsdls.find(name, spec.version, spec.definition);
		const parts: Part[] = [];
		let text: string;
		if (spec.envelope !== undefined) text = await evaluator.text(spec.envelope, scope, escapeXml);
		else {
			const values = await evaluator.deep(spec.values, scope);
			const headers = spec.headers && ((await evaluator.deep(spec.headers, scope)) as JsonObject);
			// schemas and patterns are much code: who sends no envelope needs none of it
			const { writeEnvelope } = await import('../soap/write/index.ts');
			const written = writeEnvelope(
				wsdls.model(found),
				{ values, ...(headers ? { headers } : {}) },
				{
					...(spec.mtom ? { binary: (base64: string) => beside(evaluator.bare(base64), parts, tools) } : {}),
					unknown: spec.unknown
				}
			);
			const lost = spec.unknown ? undefined : written.problems.find(({ unknown }) => unknown);
			if (lost) {
				const detail = `${evaluator.bare(lost.message)}; unknown: true in soap: sends it all the same`;
				throw new HeronError('definition.value', { name, detail });
			}
			text = written.text;
		}
		if (spec.addressing) text = addressed(text, found.operation, tools);
		const { operation } = found;
		const action =
			operation.version === '1.1' ? { headers: [['SOAPAction', `"${operation.action}"`] as [string, string]] } : {};
		for (const { file: path, id, type } of spec.attachments) {
			const own = evaluator.bare(await evaluator.text(path, scope));
			parts.push({ id, type: type || typeOfFile(own), bytes: tools.readFile(own) });
		}
		const plain = { bytes: utf8(text), contentType: soapType(operation) };
		return {
			...(parts.length > 0 || spec.mtom ? related(plain, parts, operation, spec.mtom, tools) : plain),
			...action
		};
	}
};
