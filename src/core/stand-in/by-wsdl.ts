import type { ContractFault } from '../checks/index.ts';
import type { Answer, StandIn } from '../documents/stand-in.ts';
import { HeronError } from '../errors.ts';
import { headerValue, type HeaderList } from '../model/reply.ts';
import { viewReply } from '../model/view.ts';
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
import type { Asked, Reading } from './asked.ts';
import { NO_DEFINITION, wordsOf, type Defined, type Definitions } from './defined.ts';
import type { StandInPorts } from './ports.ts';

type Wsdl = ReturnType<Workspace['wsdls']['definition']>;
type Operation = Wsdl['operations'][number];

/** The media type of messages (SOAP 1.1 section 6, SOAP 1.2 part 2 section 7.1.4). */
const typeOf = ({ version }: Operation): string =>
	`${version === '1.1' ? 'text/xml' : 'application/soap+xml'}; charset=utf-8`;

/** A WSDL that a stand-in stands for. */
export class ByWsdl implements Definitions {
	readonly #file: string;
	readonly #definition: Wsdl;
	readonly #base: string;
	readonly #xml: StandInPorts['xml'];
	readonly #known = new WeakMap<Reading, FoundOperation | null>();
	readonly openapi = NO_DEFINITION.openapi;
	readonly webhook = NO_DEFINITION.webhook;
	readonly webhookFaults = NO_DEFINITION.webhookFaults;

	constructor(file: string, definition: Wsdl, { base }: Pick<StandIn, 'base'>, { xml }: StandInPorts) {
		this.#file = file;
		this.#definition = definition;
		this.#base = base;
		this.#xml = xml;
	}

	operations(): { method: string; path: string; operation: string }[] {
		const keys = new Set(this.#definition.operations.map(({ key }) => key));
		return [...keys].map((operation) => ({ method: 'POST', path: '', operation }));
	}

	soap(reading: Reading): FoundOperation | undefined {
		const kept = this.#known.get(reading);
		if (kept !== undefined) return kept ?? undefined;
		const found = this.#find(reading);
		this.#known.set(reading, found ?? null);
		return found;
	}

	#find({ asked, view }: Reading): FoundOperation | undefined {
		if (asked.method !== 'POST' || view.reply.body.length === 0) return undefined;
		let opened: ReturnType<typeof openEnvelope>;
		try {
			opened = openEnvelope(view.message);
		} catch {
			return undefined;
		}
		const [first] = opened.body;
		const action = /"?([^"]*)"?/.exec(headerValue(asked.headers, 'soapaction') ?? '')?.[1] ?? '';
		const fits = this.#definition.operations.filter(({ version, input }) => {
			const [wanted] = input.body;
			if (version !== opened.version) return false;
			return wanted ? wanted.local === first?.local && wanted.namespace === first.namespace : first === undefined;
		});
		const operation = fits.find((one) => action !== '' && one.action === action) ?? fits[0];
		return operation && { definition: this.#definition, operation };
	}

	asked({ operation: key }: Answer): Asked | undefined {
		const operation = this.#definition.operations.find((one) => key && (one.key === key || one.name === key));
		if (!operation) return undefined;
		const model = modelOf(this.#definition, operation);
		const { stopped: _, ...values } = sampleValues(model, 'telling');
		return {
			...{ method: 'POST', target: this.#base || '/', origin: 'http://127.0.0.1' },
			headers: [['Content-Type', typeOf(operation)]],
			body: utf8(writeEnvelope(model, values).text)
		};
	}

	async requestFaults(reading: Reading): Promise<ContractFault[]> {
		const found = this.soap(reading);
		if (!found) throw new HeronError('definition.noOperation', { file: this.#file });
		return contractFaults(reading.view.message, 'input', found, this.#xml);
	}

	async answerFaults(
		reading: Reading,
		{ status, headers, body }: { status: number; headers: HeaderList; body: Uint8Array }
	): Promise<ContractFault[] | undefined> {
		const found = this.soap(reading);
		if (!found) return undefined;
		const view = viewReply({ ...reading.view.reply, status, headers, body, wireSize: body.length }, this.#xml);
		return contractFaults(view.message, 'output', found, this.#xml);
	}

	async answer(reading: Reading): Promise<Defined | undefined> {
		const found = this.soap(reading);
		if (!found) return undefined;
		const { operation } = found;
		const headers: HeaderList = [['Content-Type', typeOf(operation)]];
		const faults = await this.requestFaults(reading);
		if (faults.length > 0) {
			const notes = faults.map(wordsOf);
			const { text } = writeFault(found, { code: 'Client', reason: notes.join('; ') });
			// SOAP 1.1 section 6.2; SOAP 1.2 part 2 section 7.5.2.2: what is the sender's fault is 400
			const status = operation.version === '1.1' ? 500 : 400;
			return { status, headers, body: utf8(text), operation: operation.key, notes, refused: true };
		}
		if (!operation.output)
			return { status: 202, headers: [], body: new Uint8Array(), operation: operation.key, notes: [] };
		const { stopped, ...values } = sampleValues(answerModel(found), 'telling');
		const { text } = writeAnswer(found, values);
		return { status: 200, headers, body: utf8(text), operation: operation.key, notes: stopped ? [stopped] : [] };
	}

	text(address: string, name: string): string | undefined {
		const { files } = this.#definition;
		const text = files.get(name || this.#file);
		if (text === undefined) return undefined;
		const own = address.replace(/\/+$/, '') + this.#base;
		return text
			.replace(/(<(?:[\w.-]+:)?address\s[^>]*location=)("[^"]*"|'[^']*')/g, (_, before: string) => `${before}"${own}"`)
			.replace(
				/((?:schemaLocation|location)=)(["'])([^"']+)\2/g,
				(all: string, before: string, _: string, at: string) => {
					const there = [...files.keys()].find((one) => one.endsWith(`/${at.replace(/^\.?\//, '')}`));
					return there && !/^https?:/.test(at) ? `${before}"${own}?wsdl=${encodeURIComponent(there)}"` : all;
				}
			);
	}
}
