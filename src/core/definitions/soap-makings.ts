import type { Offer } from '../model/definition-plan.ts';
import type { Json, JsonObject } from '../model/json.ts';
import {
	idOf,
	modelOf,
	readable,
	sampleElement,
	sampleValues,
	type Definition,
	type PlainOperation,
	type SoapOperation
} from '../soap/index.ts';

/** An address that can be called over HTTP; bindings to other transports have others. */
export const httpUrl = (address: string): URL | undefined => {
	const url = URL.canParse(address) ? new URL(address) : undefined;
	return url && /^https?:$/.test(url.protocol) ? url : undefined;
};

/** What an operation’s step calls: behind the base of its connection, or the whole address of another origin. */
const targetOf = (address: string, origin: string, more = ''): string => {
	const url = httpUrl(address);
	if (!url) return more || '/';
	const path = `${more ? url.pathname.replace(/\/+$/, '') : url.pathname}${more}${url.search}`;
	return url.origin === origin ? path : url.origin + path;
};

/** A scenario that can be made of an operation. */
export interface Making {
	offer: Offer;
	/** Of the operation, whatever its version. */
	key: string;
	service: string;
	plain: boolean;
	/** Of a call with an envelope. */
	operation?: SoapOperation;
	/** @param alone its name is not taken by another scenario */
	make(id: string, alone: boolean): JsonObject;
}

const offerOf = (key: string, id: string, title: string, tags: string[], operation: string): Offer => ({
	...{ key, id, title, tags, operations: [operation] },
	...{ why: '', chain: '', deprecated: false, chosen: false }
});

/** The scenario of a call with an envelope. @param ambiguous other definitions call an operation so @param tell of what cannot be made */
export function soapMaking(
	operation: SoapOperation,
	definition: Definition,
	origin: string,
	ambiguous: boolean,
	tell: (message: string) => void
): Making {
	const { key, version, name, service } = operation;
	const first = definition.operations.find((one) => one.key === key) === operation;
	const [id, title] = first
		? [idOf(name), name]
		: [`${idOf(name)}-soap-${version.replace('.', '-')}`, `${name} (SOAP ${version})`];
	return {
		offer: offerOf(
			first ? key : `${key} ${version}`,
			id,
			title,
			[service, `SOAP ${version}`],
			`${key} (SOAP ${version})`
		),
		...{ key, service, plain: false, operation },
		make: (own, alone) => ({
			id: own,
			title: alone ? title : key,
			steps: [{ id: 'call', ...soapStep(definition, operation, { origin, ambiguous, tell }) }]
		})
	};
}

/**
 * A step without an id that calls an operation with the least that it takes, and with what may be where that is nothing.
 * @param given the origin that its connection stands for, whether other definitions call an operation so, and who is told what cannot be made
 */
export function soapStep(
	definition: Definition,
	operation: SoapOperation,
	{ origin, ambiguous, tell }: { origin: string; ambiguous: boolean; tell(message: string): void }
): JsonObject {
	const { key, version, doc, address } = operation;
	const { values, headers, stopped } = sampleValues(modelOf(definition, operation), 'telling');
	if (stopped) tell(`${key}: ${stopped}`);
	return {
		// the operation's name stands in its row
		...(doc && doc.length <= 80 ? { title: doc } : {}),
		send: `POST ${targetOf(address, origin)}`,
		body: {
			soap: {
				operation: key,
				version,
				...(ambiguous ? { definition: definition.file.replace(/^definitions\//, '') } : {}),
				values: readable(values),
				...(headers ? { headers } : {})
			}
		},
		checks: [{ fault: 'code', present: false }, { contract: true }] as Json[]
	};
}

/** The scenario of a call without an envelope (WSDL 1.1 section 4). @param tell of what cannot be made */
export function plainMaking(
	operation: PlainOperation,
	definition: Definition,
	origin: string,
	tell: (message: string) => void
): Making {
	const { key, name, service, method, address, location, how, parts, doc } = operation;
	const send = `${method} ${targetOf(address, origin, location)}`;
	const id = `${idOf(name)}-${method.toLowerCase()}`;
	return {
		offer: offerOf(`${method} ${key}`, id, `${name} by ${method}`, [service, `HTTP ${method}`], send),
		...{ key, service, plain: true },
		make(own) {
			const model = modelOf(definition, {
				...({ key, name, service } as SoapOperation),
				input: { body: parts, headers: [], attachments: [] }
			});
			const values = Object.fromEntries(
				model.input.body.map((one) => [one.local, sampleElement(model, one, 'telling')])
			);
			const text = (value: Json) => (typeof value === 'object' && value !== null ? '' : value);
			const given = Object.fromEntries(Object.entries(values).map(([part, value]) => [part, text(value)]));
			const any = parts.length > 0;
			if (how === 'other' && any)
				tell(`${key} by ${method}: how its parts travel is not said in a way that is known here`);
			return {
				id: own,
				title: `${name} by ${method}`,
				steps: [
					{
						id: 'call',
						title: doc && doc.length <= 80 ? doc : name,
						send,
						...(how === 'query' && any ? { query: given } : {}),
						...(how === 'path' && any ? { path: given } : {}),
						...(how === 'form' && any ? { body: { form: given } } : {}),
						checks: [{ status: 200 }]
					}
				]
			};
		}
	};
}
