import type { ContractFault } from '../checks/index.ts';
import type { Answer } from '../documents/stand-in.ts';
import { HeronError } from '../errors.ts';
import type { HeaderList } from '../model/reply.ts';
import type { MadeCallback, OpenapiOperation, Webhook } from '../openapi/index.ts';
import type { FoundOperation } from '../soap/index.ts';
import type { Asked, Reading } from './asked.ts';
import type { Came, Outgoing } from './ports.ts';

/** What is answered by a definition. */
export interface Defined {
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

/** An operation of an OpenAPI document that is asked for, and the values in its path. */
export interface FoundCall {
	operation: OpenapiOperation;
	path: Record<string, string>;
}

/** The definition that a stand-in stands for. */
export interface Definitions {
	/** Its operations: what may be asked. */
	operations(): { method: string; path: string; operation: string }[];
	/** The operation of an OpenAPI document that a request asks for. */
	openapi(reading: Reading): FoundCall | undefined;
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

/** None: what a definition of some kind does not know, either. */
export const NO_DEFINITION: Definitions = {
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

/** A fault with its place, in words. */
export const wordsOf = ({ message, path, line }: ContractFault): string =>
	path ? `${path} ${message}` : line ? `line ${line}: ${message}` : message;
