import { HeronError } from '../errors.ts';
import { headerValue, type HeaderList, type Reply } from '../model/reply.ts';
import type { Answer, StandIn } from '../documents/stand-in.ts';
import type { ContractFault } from '../checks/index.ts';
import {
	callbacksOf,
	messageOf,
	carriedBy,
	operationAt,
	operationsAt,
	pathValues,
	replyFaults,
	requestFaults,
	sampleCall,
	sampleReply,
	webhooksOf,
	type MadeCallback,
	type OpenapiOperation,
	type Webhook
} from '../openapi/index.ts';
import type { Workspace } from '../project/index.ts';
import {
	answerModel,
	contractFaults,
	modelOf,
	openEnvelope,
	sampleValues,
	writeAnswer,
	writeEnvelope,
	writeFault,
	type FoundOperation
} from '../soap/index.ts';
import { utf8 } from '../values/index.ts';
import { viewReply } from '../model/view.ts';
import type { Asked, Reading } from './asked.ts';
import { problemOf } from './problem.ts';
import type { Came, Outgoing, StandInPorts } from './ports.ts';

/** What is answered by a definition. */
interface Defined {
	status: number;
	headers: HeaderList;
	body: Uint8Array;
	/** The operation, in words. */
	operation: string;
	notes: string[];
	/** The request is not as the definition has it. */
	refused?: true;
	/** Calls that it makes back. */
	calls?: MadeCallback[];
}

/** The definition that a stand-in stands for. */
export interface Definitions {
	/** Its operations: what may be asked. */
	operations(): { method: string; path: string; operation: string }[];
	/** The operation of an OpenAPI document that a request asks for. */
	openapi(reading: Reading): { operation: OpenapiOperation; path: Record<string, string> } | undefined;
	/** The operation of a WSDL that an envelope asks for. */
	soap(reading: Reading): FoundOperation | undefined;
	/** What in a request is not as its operation has it. @throws HeronError definition.absent, definition.noOperation */
	requestFaults(reading: Reading): Promise<ContractFault[]>;
	/** What in an answer is not as the definition of the request has it; undefined where it knows no such request. */
	answerFaults(
		reading: Reading,
		answer: { status: number; headers: HeaderList; body: Uint8Array }
	): Promise<ContractFault[] | undefined>;
	/** The answer that the definition has for a request; undefined where it knows none. */
	answer(reading: Reading): Promise<Defined | undefined>;
	/** A request that the definition has for an answer: undefined where it knows none. */
	asked(answer: Answer): Asked | undefined;
	/** The webhook of a name. */
	webhook(name: string): Webhook | undefined;
	/** What of a call that went out by itself, or of the answer to it, is not as its webhook has it. */
	webhookFaults(name: string, sent: Outgoing, came: Came | undefined): Promise<{ sent: string[]; came: string[] }>;
	/** The text of a WSDL, or of a file that it reads, for whoever asks for it: its address is the stand-in's. */
	text(address: string, file: string): string | undefined;
}

const NONE: Definitions = {
	operations: () => [],
	openapi: () => undefined,
	soap: () => undefined,
	requestFaults: () => Promise.reject(new HeronError('definition.none', { detail: 'the stand-in names none' })),
	answerFaults: () => Promise.resolve(undefined),
	answer: () => Promise.resolve(undefined),
	asked: () => undefined,
	webhook: () => undefined,
	webhookFaults: () => Promise.resolve({ sent: [], came: [] }),
	text: () => undefined
};

const BLANK: Reply = {
	...{ status: 0, reason: '', version: '1.1', headers: [], body: new Uint8Array(), wireSize: 0, reused: false },
	phases: { name: 0, connect: 0, tls: 0, send: 0, wait: 0, body: 0, total: 0 }
};
const ASKED_STATUS = 'heron-answer';

/**
 * Opens the definition that a stand-in names.
 * @throws HeronError definition.wrong, definition.none
 */
export function openDefinition(spec: StandIn, workspace: Workspace, ports: StandInPorts): Definitions {
	if (!spec.definition) return NONE;
	const file = spec.definition.startsWith('definitions/') ? spec.definition : `definitions/${spec.definition}`;
	if (/\.wsdl$/i.test(file)) return openWsdl(file, spec, workspace, ports);
	const found = workspace.openapis.all().find((one) => one.file === file);
	if (found?.error) throw found.error;
	if (!found?.definition) throw new HeronError('file.missing', { file });
	const { operations, document } = found.definition;
	const webhooks = webhooksOf(document);
	const asked = new WeakMap<Reading, ReturnType<Definitions['openapi']>>();

	const openapi: Definitions['openapi'] = (reading) => {
		if (asked.has(reading)) return asked.get(reading);
		const { method } = reading.asked;
		// below the stand-in's base all paths of the document are there, whatever its servers say
		const path = reading.path;
		const { target, headers } = reading.asked;
		const carried = carriedBy(target.slice(path.length), headers);
		const at = (wanted: string) => operationAt(operations, { method: wanted, path, base: spec.base, carried });
		const operation = at(method) ?? (method === 'HEAD' ? at('GET') : undefined);
		const made = operation && { operation, path: pathValues(operation, path, spec.base) };
		asked.set(reading, made);
		return made;
	};
	const held = (reading: Reading, at: NonNullable<ReturnType<Definitions['openapi']>>): Promise<ContractFault[]> => {
		const { asked: request, view } = reading;
		const mark = request.target.indexOf('?');
		return requestFaults(
			{ path: at.path, search: mark < 0 ? '' : request.target.slice(mark), headers: request.headers, view },
			at.operation,
			ports.validateJson
		);
	};
	return {
		...NONE,
		operations: () => operations.map(({ method, template }) => ({ method, path: template, operation: '' })),
		openapi,
		async requestFaults(reading) {
			const at = openapi(reading);
			if (!at) throw new HeronError('definition.absent', { call: `${reading.asked.method} ${reading.path}`, file });
			return held(reading, at);
		},
		async answerFaults(reading, { status, headers, body }) {
			const at = openapi(reading);
			if (!at) return undefined;
			const view = viewReply({ ...reading.view.reply, status, headers, body, wireSize: body.length });
			const faults = await replyFaults(view, at.operation, ports.validateJson);
			return faults.filter(({ note }) => !note);
		},
		asked({ method, path }) {
			const target = spec.base + path.replace(/\{\+?[^}]*\}/g, '1');
			const there = operationsAt(operations, { method, path: target, base: spec.base });
			const operation = method ? there.find((one) => one.method === method) : there[0];
			if (!operation) return undefined;
			const { query, headers } = sampleCall(operation);
			const on = (list: typeof query) =>
				list.filter(({ off }) => !off).map(({ name, value }): [string, string] => [name, String(value)]);
			const search = new URLSearchParams(on(query)).toString();
			const message = messageOf(operation);
			return {
				...{ method: operation.method, target: target + (search && `?${search}`), body: message.body },
				...{ headers: [...on(headers), ...message.headers], origin: 'http://127.0.0.1' }
			};
		},
		webhook: (name) => webhooks.find((one) => one.name === name),
		async webhookFaults(name, sent, came) {
			const operation = webhooks.find((one) => one.name === name)?.operation;
			if (!operation) return { sent: [], came: [] };
			const { search } = new URL(sent.url);
			const view = viewReply({ ...BLANK, status: 200, headers: sent.headers, body: sent.body });
			const wrong = await requestFaults(
				{ path: {}, search, headers: sent.headers, view },
				{ ...operation, method: sent.method },
				ports.validateJson
			);
			const back = came && (await replyFaults(viewReply({ ...BLANK, ...came }), operation, ports.validateJson));
			return { sent: wrong.map(wordsOf), came: (back ?? []).filter(({ note }) => !note).map(wordsOf) };
		},
		async answer(reading) {
			const at = openapi(reading);
			if (!at) return undefined;
			const { method, template } = at.operation;
			const operation = `${method} ${template}`;
			const faults = await held(reading, at);
			if (faults.length > 0)
				return { ...wrongRequest(operation, faults), operation, notes: faults.map(wordsOf), refused: true };
			const { headers } = reading.asked;
			const wanted = headerValue(headers, ASKED_STATUS);
			const status = wanted && /^[2-5]\d\d$/.test(wanted) ? Number(wanted) : undefined;
			const accept = headerValue(headers, 'accept');
			return {
				...sampleReply(at.operation, {
					...(status === undefined ? {} : { status }),
					...(accept === undefined ? {} : { accept })
				}),
				operation,
				calls: callbacksOf(at.operation, {
					...{ url: reading.asked.origin + reading.asked.target, method, path: at.path, query: reading.query, headers },
					body: () => reading.view.body()
				})
			};
		}
	};
}

const wordsOf = ({ message, path, line }: ContractFault): string =>
	path ? `${path} ${message}` : line ? `line ${line}: ${message}` : message;

/** 400 with the places (RFC 9457). */
const wrongRequest = (operation: string, faults: ContractFault[]) =>
	problemOf(400, `it is not as ${operation} has it`, {
		faults: faults.map(({ message, path }) => ({ message, ...(path ? { path } : {}) }))
	});

function openWsdl(file: string, spec: StandIn, workspace: Workspace, ports: StandInPorts): Definitions {
	const definition = workspace.wsdls.definition(file);
	const known = new WeakMap<Reading, FoundOperation | null>();
	const soap: Definitions['soap'] = (reading) => {
		const kept = known.get(reading);
		if (kept !== undefined) return kept ?? undefined;
		const found = lookFor(reading);
		known.set(reading, found ?? null);
		return found;
	};
	const lookFor = (reading: Reading): FoundOperation | undefined => {
		if (reading.asked.method !== 'POST' || reading.view.reply.body.length === 0) return undefined;
		let opened: ReturnType<typeof openEnvelope>;
		try {
			opened = openEnvelope(reading.view.message);
		} catch {
			return undefined;
		}
		const [first] = opened.body;
		const action = /"?([^"]*)"?/.exec(headerValue(reading.asked.headers, 'soapaction') ?? '')?.[1] ?? '';
		const fits = definition.operations.filter(({ version, input }) => {
			const [wanted] = input.body;
			if (version !== opened.version) return false;
			return wanted ? wanted.local === first?.local && wanted.namespace === first.namespace : first === undefined;
		});
		const operation = fits.find((one) => action !== '' && one.action === action) ?? fits[0];
		return operation && { definition, operation };
	};
	const faultsOf = (reading: Reading, found: FoundOperation) =>
		contractFaults(reading.view.message, 'input', found, ports.xml);
	return {
		...NONE,
		operations: () =>
			[...new Set(definition.operations.map(({ key }) => key))].map((operation) => ({
				method: 'POST',
				path: '',
				operation
			})),
		soap,
		asked({ operation: key }) {
			const operation = definition.operations.find((one) => key && (one.key === key || one.name === key));
			if (!operation) return undefined;
			const { stopped: _, ...values } = sampleValues(modelOf(definition, operation), 'minimal');
			const type = operation.version === '1.1' ? 'text/xml' : 'application/soap+xml';
			return {
				...{ method: 'POST', target: spec.base || '/', origin: 'http://127.0.0.1' },
				headers: [['Content-Type', `${type}; charset=utf-8`]],
				body: utf8(writeEnvelope(modelOf(definition, operation), values).text)
			};
		},
		async requestFaults(reading) {
			const found = soap(reading);
			if (!found) throw new HeronError('definition.noOperation', { file });
			return faultsOf(reading, found);
		},
		async answerFaults(reading, { headers, body, status }) {
			const found = soap(reading);
			if (!found) return undefined;
			const view = viewReply({ ...reading.view.reply, status, headers, body, wireSize: body.length }, ports.xml);
			return contractFaults(view.message, 'output', found, ports.xml);
		},
		async answer(reading) {
			const found = soap(reading);
			if (!found) return undefined;
			const { operation } = found;
			const media = operation.version === '1.1' ? 'text/xml' : 'application/soap+xml';
			const headers: HeaderList = [['Content-Type', `${media}; charset=utf-8`]];
			const faults = await faultsOf(reading, found);
			if (faults.length > 0) {
				const reason = faults.map(wordsOf).join('; ');
				const { text } = writeFault(found, { code: 'Client', reason });
				// SOAP 1.1 section 6.2; SOAP 1.2 part 2 section 7.5.2.2: what is the sender's fault is 400
				return {
					status: operation.version === '1.1' ? 500 : 400,
					headers,
					body: utf8(text),
					operation: operation.key,
					notes: faults.map(wordsOf),
					refused: true
				};
			}
			if (!operation.output)
				return { status: 202, headers: [], body: new Uint8Array(), operation: operation.key, notes: [] };
			const { stopped, ...values } = sampleValues(answerModel(found), 'minimal');
			const { text } = writeAnswer(found, values);
			return { status: 200, headers, body: utf8(text), operation: operation.key, notes: stopped ? [stopped] : [] };
		},
		text(address, name) {
			const wanted = name || file;
			const text = definition.files.get(wanted);
			if (text === undefined) return undefined;
			const own = address.replace(/\/+$/, '') + spec.base;
			return text
				.replace(
					/(<(?:[\w.-]+:)?address\s[^>]*location=)("[^"]*"|'[^']*')/g,
					(_, before: string) => `${before}"${own}"`
				)
				.replace(
					/((?:schemaLocation|location)=)(["'])([^"']+)\2/g,
					(all: string, before: string, _: string, at: string) => {
						const there = [...definition.files.keys()].find((one) => one.endsWith(`/${at.replace(/^\.?\//, '')}`));
						return there && !/^https?:/.test(at) ? `${before}"${own}?wsdl=${encodeURIComponent(there)}"` : all;
					}
				);
		}
	};
}
