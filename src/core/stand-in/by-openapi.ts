import type { ContractFault } from '../checks/index.ts';
import type { Answer, StandIn } from '../documents/stand-in.ts';
import { HeronError } from '../errors.ts';
import { headerValue, type HeaderList, type Reply } from '../model/reply.ts';
import { viewReply } from '../model/view.ts';
import {
	callbacksOf,
	carriedBy,
	messageOf,
	operationAt,
	operationsAt,
	pathValues,
	replyFaults,
	requestFaults,
	sampleCall,
	sampleReply,
	webhooksOf,
	type OpenapiOperation,
	type Webhook
} from '../openapi/index.ts';
import type { Asked, Reading } from './asked.ts';
import { NO_DEFINITION, wordsOf, type Defined, type Definitions, type FoundCall } from './defined.ts';
import type { Came, Outgoing, StandInPorts } from './ports.ts';
import { problemOf } from './problem.ts';

const BLANK: Reply = {
	...{ status: 0, reason: '', version: '1.1', headers: [], body: new Uint8Array(), wireSize: 0, reused: false },
	phases: { name: 0, connect: 0, tls: 0, send: 0, wait: 0, body: 0, total: 0 }
};
const ASKED_STATUS = 'heron-answer';

/** 400 with the places (RFC 9457). */
const wrongRequest = (operation: string, faults: ContractFault[]) =>
	problemOf(400, `it is not as ${operation} has it`, {
		faults: faults.map(({ message, path }) => ({ message, ...(path ? { path } : {}) }))
	});

/** An OpenAPI document that a stand-in stands for. */
export class ByOpenapi implements Definitions {
	readonly #file: string;
	readonly #base: string;
	readonly #operations: OpenapiOperation[];
	readonly #webhooks: Webhook[];
	readonly #validateJson: StandInPorts['validateJson'];
	readonly #asked = new WeakMap<Reading, FoundCall | undefined>();
	readonly soap = NO_DEFINITION.soap;
	readonly text = NO_DEFINITION.text;

	constructor(
		file: string,
		{ operations, document }: { operations: OpenapiOperation[]; document: Parameters<typeof webhooksOf>[0] },
		{ base }: Pick<StandIn, 'base'>,
		{ validateJson }: StandInPorts
	) {
		this.#file = file;
		this.#base = base;
		this.#operations = operations;
		this.#webhooks = webhooksOf(document);
		this.#validateJson = validateJson;
	}

	operations(): { method: string; path: string; operation: string }[] {
		return this.#operations.map(({ method, template }) => ({ method, path: template, operation: '' }));
	}

	openapi(reading: Reading): FoundCall | undefined {
		if (this.#asked.has(reading)) return this.#asked.get(reading);
		// below the stand-in's base all paths of the document are there, whatever its servers say
		const { path } = reading;
		const { method, target, headers } = reading.asked;
		const carried = carriedBy(target.slice(path.length), headers);
		const at = (wanted: string) => operationAt(this.#operations, { method: wanted, path, base: this.#base, carried });
		const operation = at(method) ?? (method === 'HEAD' ? at('GET') : undefined);
		const made = operation && { operation, path: pathValues(operation, path, this.#base) };
		this.#asked.set(reading, made);
		return made;
	}

	#faultsOf({ asked: { target, headers }, view }: Reading, { operation, path }: FoundCall): Promise<ContractFault[]> {
		const mark = target.indexOf('?');
		const search = mark < 0 ? '' : target.slice(mark);
		return requestFaults({ path, search, headers, view }, operation, this.#validateJson);
	}

	async requestFaults(reading: Reading): Promise<ContractFault[]> {
		const at = this.openapi(reading);
		if (!at)
			throw new HeronError('definition.absent', { call: `${reading.asked.method} ${reading.path}`, file: this.#file });
		return this.#faultsOf(reading, at);
	}

	async answerFaults(
		reading: Reading,
		{ status, headers, body }: { status: number; headers: HeaderList; body: Uint8Array }
	): Promise<ContractFault[] | undefined> {
		const at = this.openapi(reading);
		if (!at) return undefined;
		const view = viewReply({ ...reading.view.reply, status, headers, body, wireSize: body.length });
		const faults = await replyFaults(view, at.operation, this.#validateJson);
		return faults.filter(({ note }) => !note);
	}

	asked({ method, path }: Answer): Asked | undefined {
		const target = this.#base + path.replace(/\{\+?[^}]*\}/g, '1');
		const there = operationsAt(this.#operations, { method, path: target, base: this.#base });
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
	}

	webhook(name: string): Webhook | undefined {
		return this.#webhooks.find((one) => one.name === name);
	}

	async webhookFaults(
		name: string,
		sent: Outgoing,
		came: Came | undefined
	): Promise<{ sent: string[]; came: string[] }> {
		const operation = this.webhook(name)?.operation;
		if (!operation) return { sent: [], came: [] };
		const { search } = new URL(sent.url);
		const view = viewReply({ ...BLANK, status: 200, headers: sent.headers, body: sent.body });
		const wrong = await requestFaults(
			{ path: {}, search, headers: sent.headers, view },
			{ ...operation, method: sent.method },
			this.#validateJson
		);
		const back = came && (await replyFaults(viewReply({ ...BLANK, ...came }), operation, this.#validateJson));
		return { sent: wrong.map(wordsOf), came: (back ?? []).filter(({ note }) => !note).map(wordsOf) };
	}

	async answer(reading: Reading): Promise<Defined | undefined> {
		const at = this.openapi(reading);
		if (!at) return undefined;
		const { method, template } = at.operation;
		const operation = `${method} ${template}`;
		const faults = await this.#faultsOf(reading, at);
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
}
