import { didYouMean } from '../../messages.ts';
import { isObject, type Json, type JsonObject } from '../../model/json.ts';
import { drip, length, malformed, type } from './body.ts';
import { half, refuse, reset, silent } from './breaking.ts';
import { delay } from './delay.ts';
import type { FaultKind, FaultTools, Given } from './kind.ts';
import { limit } from './limit.ts';
import { status } from './status.ts';

export type { FaultKind, FaultTools, Given } from './kind.ts';

/** In the order in which they are applied. */
export const faultKinds: readonly FaultKind[] = [
	...[status, limit, type, malformed, length, drip, half, reset, silent, refuse, delay]
];
const byKey = new Map(faultKinds.map((kind) => [kind.key, kind]));

/** A fault: what goes wrong, how often, and for which answers. */
export interface Fault {
	/** By the keys of their kinds. */
	effects: JsonObject;
	/** Of a hundred calls. */
	rate: number;
	/** Ids of answers; none for all. */
	answers: string[];
}

/** Reports what is wrong with a fault as written. */
export function checkFault(value: unknown, report: (at: (string | number)[], message: string) => void): void {
	const known = [...byKey.keys(), 'rate', 'answers'];
	if (!isObject(value)) return report([], `a fault is wanted, such as { delay: 500 ms } or { status: 503, rate: 10 }`);
	for (const [key, own] of Object.entries(value)) {
		const kind = byKey.get(key);
		const wrong = kind?.problem(own);
		if (wrong) report([key], wrong);
		if (!known.includes(key)) report([key], `unknown key "${key}"${didYouMean(key, known)}`);
	}
	if (!Object.keys(value).some((key) => byKey.has(key)))
		report([], `it says not what goes wrong: ${[...byKey.keys()].join(', ')}`);
	const { rate, answers } = value;
	if (rate !== undefined && !(typeof rate === 'number' && rate > 0 && rate <= 100))
		report(['rate'], 'so many of a hundred calls: a number up to 100 is wanted');
	if (answers !== undefined && !(Array.isArray(answers) && answers.every((one) => typeof one === 'string')))
		report(['answers'], 'a list of ids of answers is wanted');
}

/** A fault as it is written; effects that nobody knows are left out. */
export function parseFault(value: unknown): Fault {
	const given = isObject(value) ? value : {};
	return {
		effects: Object.fromEntries(
			Object.entries(given).filter(([key]) => byKey.has(key)) as [string, Json][]
		) as JsonObject,
		rate: typeof given.rate === 'number' ? given.rate : 100,
		answers: Array.isArray(given.answers) ? given.answers.map(String) : []
	};
}

/** A fault in words. */
export const faultWords = ({ effects, rate }: Fault): string =>
	Object.entries(effects)
		.map(([key, value]) => byKey.get(key)!.words(value!))
		.join(', ') + (rate < 100 ? `, ${rate} of 100` : '');

/** Whether it spoils connections as such. */
export const spoilsConnections = ({ effects }: Fault): boolean =>
	Object.keys(effects).some((key) => byKey.get(key)?.connection);

/** Applies a fault to an answer, as often as it wants to be. @returns whether it struck */
export function applyFault(fault: Fault, answer: string, given: Given, tools: FaultTools): boolean {
	if (fault.answers.length > 0 && !fault.answers.includes(answer)) return false;
	if (fault.rate < 100 && tools.random() * 100 >= fault.rate) return false;
	for (const kind of faultKinds)
		if (Object.hasOwn(fault.effects, kind.key)) kind.apply(given, fault.effects[kind.key]!, tools);
	return true;
}
