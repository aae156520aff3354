import { isObject, type Json, type JsonObject } from '../model/json.ts';
import type { Offer } from '../model/definition-plan.ts';
import { fileName, singular } from '../model/name.ts';
import { writeParams, type Param } from '../model/params.ts';
import {
	chainsOf,
	nameIn,
	nameOf,
	ownPlace,
	sampleCall,
	successStatus,
	type Chain,
	type ChainStep,
	type OpenapiOperation
} from '../openapi/index.ts';
import { idOf } from '../soap/index.ts';
import type { MadeCredential } from './credentials.ts';
import { proofOf, signOnBody } from './proof.ts';
import { unlikeBefore } from './unlike.ts';

/** What can be made of a definition, each once as itself and, where it belongs to a chain, within that. */
export interface Making {
	offer: Offer;
	chain?: Chain;
	operation?: OpenapiOperation;
}

const LONGEST_TITLE = 100;

function titleOf({ node, method, template }: OpenapiOperation): string {
	const summary = typeof node.value.summary === 'string' ? node.value.summary.trim().replace(/\s+/g, ' ') : '';
	const title = summary && summary.length <= LONGEST_TITLE ? summary : `${method} ${template}`;
	return node.value.deprecated === true ? `${title} (deprecated)` : title;
}

const tagsOf = ({ node }: OpenapiOperation): string[] =>
	Array.isArray(node.value.tags) ? node.value.tags.filter((one): one is string => typeof one === 'string') : [];

/** An id of what an operation is called, or of its method and path. */
const operationId = ({ id, method, template }: OpenapiOperation): string =>
	id ? idOf(id) : idOf(`${method.toLowerCase()}${template.replace(/[{}]/g, '')}`);

/**
 * What can be made of the operations of a definition, chains first where their first operation stands.
 *
 * @param all those of the document, also those that steps call already
 */
export function makingsOf(operations: OpenapiOperation[], all: OpenapiOperation[]): Making[] {
	const chains = chainsOf(operations, all);
	const chainAt = new Map(chains.map((chain) => [ownSteps(chain)[0]!.operation, chain]));
	const within = new Map(
		chains.flatMap((chain) => ownSteps(chain).map(({ operation }) => [operation, chainKey(chain)] as const))
	);
	return operations.flatMap((operation): Making[] => {
		const chain = chainAt.get(operation);
		const single: Making = {
			operation,
			offer: {
				key: nameOf(operation),
				id: operationId(operation),
				title: titleOf(operation),
				tags: tagsOf(operation),
				operations: [nameOf(operation)],
				why: '',
				chain: within.get(operation) ?? '',
				deprecated: operation.node.value.deprecated === true,
				chosen: false
			}
		};
		if (!chain) return [single];
		const own = ownSteps(chain);
		return [
			{
				chain,
				offer: {
					key: chainKey(chain),
					...namedAs(chain),
					tags: tagsOf(operation),
					operations: own.map((one) => nameOf(one.operation)),
					why: chain.why,
					chain: '',
					deprecated: own.some((one) => one.operation.node.value.deprecated === true),
					chosen: false
				}
			},
			single
		];
	});
}
const ownSteps = (chain: Chain): ChainStep[] => chain.steps.filter(({ setup }) => !setup);
const chainKey = (chain: Chain): string => `${nameOf(ownSteps(chain)[0]!.operation)} …`;
const listed = (words: string[]): string =>
	words.length > 1 ? `${words.slice(0, -1).join(', ')} and ${words.at(-1)}` : (words[0] ?? '');

/** What a path is about, as a file's name: `/boats/{id}/crew` is crew. */
const thingOf = ({ template }: OpenapiOperation): string =>
	fileName(
		template
			.split('/')
			.filter((part) => part && !part.includes('{'))
			.at(-1) ?? ''
	);

/** The id and title of the scenario of a chain. */
function namedAs(chain: Chain): Pick<Offer, 'id' | 'title'> {
	const own = ownSteps(chain);
	const { role, operation } = own[0]!;
	if (own.length === 1) return { id: operationId(operation), title: titleOf(operation) };
	const thing = thingOf(operation) || 'thing';
	const roles = own.map((one) =>
		one.role === 'follow' ? operationId(one.operation).replaceAll(/[-_.]+/g, ' ') : one.role
	);
	const about = thing === 'thing' ? 'A thing' : thing.charAt(0).toUpperCase() + thing.slice(1).replaceAll('-', ' ');
	const id =
		role === 'follow'
			? `${operationId(operation)}-onwards`
			: `${thing}-${role === 'create' ? 'from-first-to-last' : 'found-and-read'}`;
	return { id, title: `${about}: ${listed(roles)}` };
}

/** What a step needs to know of the whole to be made. */
export interface StepTools {
	prefix: string;
	/** The base of its connection as far as it is known, to tell operations that live elsewhere. */
	base: string;
	credentials: MadeCredential[];
	/** The credential that the collection has. */
	usual: string;
	/** Names of scenarios that there are. */
	taken: Set<string>;
	tell(message: string): void;
}

/** The scenario of an offer. */
export function scenarioOf({ offer, chain, operation }: Making, tools: StepTools): { id: string; value: JsonObject } {
	let id = offer.id;
	for (let n = 2; tools.taken.has(id); n++) id = `${offer.id}-${n}`;
	tools.taken.add(id);
	const tags = [...new Set([...offer.tags.map(fileName), ...(offer.deprecated ? ['deprecated'] : [])])].filter(Boolean);
	const steps = chain ? chainSteps(chain, tools) : [{ id: 'call', ...stepOf(operation!, tools) }];
	return { id, value: { id, title: offer.title, ...(tags.length > 0 ? { tags } : {}), steps: steps as Json[] } };
}

/** `dry-load` as an id that expressions can name. */
const camel = (name: string): string =>
	name.replaceAll(/[-_.]+(\w?)/g, (_, letter: string) => letter.toUpperCase()).replace(/^\d/, '_$&');

/** What a step of a chain is called, before it is made unique: by its role, by its thing where it only sets up. */
function stepName({ role, operation, setup }: ChainStep, alone: boolean): string {
	if (setup) return camel(`${role}-${singular(thingOf(operation)) || 'thing'}`);
	if (role !== 'follow') return role;
	return alone ? 'call' : camel(operationId(operation));
}

/** Roles of steps that give a thing its name. */
const WRITES: ReadonlySet<ChainStep['role']> = new Set(['create', 'replace', 'change']);

function chainSteps(chain: Chain, tools: StepTools): JsonObject[] {
	const ids = new Map<ChainStep, string>();
	const taken = new Set<string>();
	const alone = ownSteps(chain).length === 1;
	for (const step of chain.steps) {
		const name = stepName(step, alone);
		let id = name;
		for (let n = 2; taken.has(id); n++) id = `${name}${n}`;
		taken.add(id);
		ids.set(step, id);
	}
	return chain.steps.map((one): JsonObject => {
		const { role, operation, takes, keeps } = one;
		const filled = takes.map(({ in: place, name, from, value }) => ({
			...{ in: place, name },
			value: `{${value.replace('$steps.ID', `$steps.${ids.get(from)}`)}}`
		}));
		const step = stepOf(operation, tools, filled);
		return {
			id: ids.get(one)!,
			...(titleOf(operation) === nameOf(operation) ? {} : { title: titleOf(operation) }),
			...step,
			...(isObject(step.body) && WRITES.has(role) ? { body: unlikeBefore(operation, step.body as JsonObject) } : {}),
			...(Object.keys(keeps).length > 0 ? { keep: keeps } : {}),
			// what was made is taken away again, whatever happened
			...(role === 'remove' ? { cleanup: true } : {})
		};
	});
}

/** A value for a parameter, instead of one that is made. */
interface Filled {
	in: string;
	name: string;
	value: string;
}

/** A step that calls an operation, with values for all that it needs. @param filled those that are known */
export function stepOf(operation: OpenapiOperation, tools: StepTools, filled: Filled[] = []): JsonObject {
	const { prefix, tell } = tools;
	const call = sampleCall(operation);
	for (const note of call.notes) tell(`${nameOf(operation)}: ${note}`);
	const target = `${ownPlace(operation, tools.base) ?? prefix}${call.target}`;
	const proof = proofOf(operation, tools.credentials, tools.usual);
	const given = (place: string, params: Param[]): Param[] =>
		params.map((one): Param => {
			const own = filled.find(({ in: where, name }) => where === place && sameName(place, name, one.name));
			return own ? { ...one, value: own.value, off: false } : one;
		});
	const put = (name: string, params: Param[]): JsonObject => (params.length > 0 ? { [name]: writeParams(params) } : {});
	const extra = (place: string): Param[] =>
		proof.keys.flatMap(({ in: where, name, value }) => (where === place ? [{ name, value, off: false }] : []));
	return {
		send: `${operation.method} ${target}`,
		...put('path', given('path', call.path)),
		...put('query', [...given('query', call.query), ...extra('query')]),
		...put('headers', [...given('header', call.headers), ...extra('header')]),
		...put('cookies', [...given('cookie', call.cookies), ...extra('cookie')]),
		...(call.body ? { body: signOnBody(operation, call.body, tools.credentials) } : {}),
		...(proof.credential === tools.usual ? {} : { credential: proof.credential || 'none' }),
		...(redirectOf(operation) ? { redirects: 0 } : {}),
		checks: checksOf(operation, tools)
	};
}

/** The status of an operation that does nothing but lead elsewhere. */
function redirectOf(operation: OpenapiOperation): number | undefined {
	if (successStatus(operation) !== undefined || !isObject(operation.node.value.responses)) return undefined;
	const code = Object.keys(operation.node.value.responses).find((one) => /^3\d\d$/.test(one) && one !== '304');
	return code === undefined ? undefined : Number(code);
}

const sameName = (place: string, name: string, written: string): boolean =>
	place === 'header'
		? name.toLowerCase() === written.toLowerCase()
		: name === written || (place === 'path' && nameIn(name) === written);

/** What an answer has to be; where the definition knows no good one, it cannot be held against it. */
function checksOf(operation: OpenapiOperation, { tell }: Pick<StepTools, 'tell'>): Json[] {
	const status = successStatus(operation) ?? redirectOf(operation);
	const answers = isObject(operation.node.value.responses) ? Object.keys(operation.node.value.responses) : [];
	if (status !== undefined) return [{ status }, { contract: true }];
	if (answers.includes('default')) return [{ contract: true }];
	tell(`${nameOf(operation)}: no answer is defined for when all is well, so it is not checked by its contract`);
	return [{ status: '2XX' }];
}
