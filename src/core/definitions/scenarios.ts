import { isObject, type Json, type JsonObject } from '../model/json.ts';
import type { Offer } from '../model/definition-plan.ts';
import { fileName } from '../model/name.ts';
import { writeParams, type Param } from '../model/params.ts';
import {
	chainsOf,
	nameOf,
	ownPlace,
	requirementsOf,
	sampleCall,
	successStatus,
	type Chain,
	type OpenapiOperation,
	type Requirement,
	type Role
} from '../openapi/index.ts';
import { idOf } from '../soap/index.ts';
import type { MadeCredential } from './credentials.ts';

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

/** What can be made of the operations of a definition, chains first where their first operation stands. */
export function makingsOf(operations: OpenapiOperation[]): Making[] {
	const chains = chainsOf(operations);
	const chainAt = new Map(chains.map((chain) => [chain.steps[0]!.operation, chain]));
	const within = new Map(
		chains.flatMap((chain) => chain.steps.map(({ operation }) => [operation, chainKey(chain)] as const))
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
		const roles = chain.steps.map(({ role }) => role);
		const thing = fileName(
			chain.steps[0]!.operation.template.split('/')
				.filter((part) => part && !part.includes('{'))
				.at(-1) ?? ''
		);
		return [
			{
				chain,
				offer: {
					key: chainKey(chain),
					id: `${thing || 'thing'}-${roles.includes('create') ? 'from-first-to-last' : 'found-and-read'}`,
					title: `${thing ? thing.charAt(0).toUpperCase() + thing.slice(1).replaceAll('-', ' ') : 'A thing'}: ${listed(roles)}`,
					tags: tagsOf(operation),
					operations: chain.steps.map((one) => nameOf(one.operation)),
					why: chain.why,
					chain: '',
					deprecated: chain.steps.some((one) => one.operation.node.value.deprecated === true),
					chosen: false
				}
			},
			single
		];
	});
}
const chainKey = (chain: Chain): string => `${nameOf(chain.steps[0]!.operation)} …`;
const listed = (words: string[]): string =>
	words.length > 1 ? `${words.slice(0, -1).join(', ')} and ${words.at(-1)}` : (words[0] ?? '');

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

function chainSteps(chain: Chain, tools: StepTools): JsonObject[] {
	const ids = new Map<Role, number>();
	let first = '';
	return chain.steps.map(({ role, operation }): JsonObject => {
		const count = (ids.get(role) ?? 0) + 1;
		ids.set(role, count);
		const id = count > 1 ? `${role}-${count}` : role;
		first ||= id;
		const filled =
			id === first ? {} : { [chain.parameter]: `{${chain.value.replace('$steps.ID', `$steps.${first}`)}}` };
		const step = stepOf(operation, tools, filled);
		if (id === first) step.keep = { [chain.keep.name]: chain.keep.selector };
		return {
			id,
			...(titleOf(operation) === nameOf(operation) ? {} : { title: titleOf(operation) }),
			...step,
			// what was made is taken away again, whatever happened
			...(role === 'remove' ? { cleanup: true } : {})
		};
	});
}

/** A step that calls an operation, with values for all that it needs. @param filled values of path parameters, instead of made ones */
export function stepOf(operation: OpenapiOperation, tools: StepTools, filled: Record<string, string> = {}): JsonObject {
	const { prefix, tell } = tools;
	const call = sampleCall(operation);
	for (const note of call.notes) tell(`${nameOf(operation)}: ${note}`);
	const target = `${ownPlace(operation, tools.base) ?? prefix}${call.target}`;
	const proof = proofOf(operation, tools);
	const path = call.path.map((one): Param =>
		Object.hasOwn(filled, one.name) ? { ...one, value: filled[one.name]! } : one
	);
	const put = (name: string, params: Param[]): JsonObject => (params.length > 0 ? { [name]: writeParams(params) } : {});
	const extra = (place: string): Param[] =>
		proof.keys.flatMap(({ in: where, name, value }) => (where === place ? [{ name, value, off: false }] : []));
	return {
		send: `${operation.method} ${target}`,
		...put('path', path),
		...put('query', [...call.query, ...extra('query')]),
		...put('headers', [...call.headers, ...extra('header')]),
		...put('cookies', [...call.cookies, ...extra('cookie')]),
		...(call.body ? { body: call.body } : {}),
		...(proof.credential === tools.usual ? {} : { credential: proof.credential || 'none' }),
		checks: checksOf(operation, tools)
	};
}

/** What an answer has to be; where the definition knows no good one, it cannot be held against it. */
function checksOf(operation: OpenapiOperation, { tell }: Pick<StepTools, 'tell'>): Json[] {
	const status = successStatus(operation);
	const answers = isObject(operation.node.value.responses) ? Object.keys(operation.node.value.responses) : [];
	if (status !== undefined) return [{ status }, { contract: true }];
	if (answers.includes('default')) return [{ contract: true }];
	tell(`${nameOf(operation)}: no answer is defined for when all is well, so it is not checked by its contract`);
	return [{ status: '2XX' }];
}

/** By what a call is proved: a credential, and keys beside it where several ways are wanted at once. */
export function proofOf(
	operation: OpenapiOperation,
	{ credentials }: Pick<StepTools, 'credentials'>
): { credential: string; keys: NonNullable<MadeCredential['key']>[] } {
	const [requirement] = requirementsOf(operation).filter((one) => possible(one, credentials));
	if (!requirement || requirement.length === 0) return { credential: '', keys: [] };
	const wanted = requirement.flatMap(({ scheme }) => credentials.find((one) => one.scheme === scheme) ?? []);
	const main = wanted.find(({ key }) => !key) ?? wanted[0]!;
	return { credential: main.name, keys: wanted.flatMap((one) => (one !== main && one.key ? [one.key] : [])) };
}
/** Whether there are credentials for all that is wanted at once; of those that are no keys, one can be used. */
const possible = (requirement: Requirement, credentials: MadeCredential[]): boolean => {
	const found = requirement.map(({ scheme }) => credentials.find((one) => one.scheme === scheme));
	return found.every(Boolean) && found.filter((one) => !one!.key).length <= 1;
};
