import { HeronError } from '../errors.ts';
import { writeJson, type JsonObject } from '../model/json.ts';
import { parseYaml } from '../model/yaml.ts';
import type { Reading } from './asked.ts';
import { applyFault, checkFault, faultWords, parseFault, spoilsConnections, type Fault } from './faults/index.ts';
import type { Answered, Work } from './work.ts';

/** A fault for one call, by name or as it is written. */
export const FAULT_HEADER = 'heron-fault';

/** The faults that are on. */
export interface Faults {
	/** Switches them: by their names, or as they are written in a file. @throws HeronError standIn.fault */
	set(wanted: (string | JsonObject)[]): void;
	/** As they were given. */
	given(): (string | JsonObject)[];
	inWords(): { name: string; words: string }[];
	/** Whether connections are refused. */
	refuses(): boolean;
	/** Lets those that are on, the answer's own, and the one that the call asks for strike. @throws HeronError standIn.fault */
	strike(answered: Answered, reading: Reading): void;
}

/** The faults of a stand-in, and which of them strike a call. */
export function createFaults({ spec, memory, ports, random }: Work): Faults {
	let active = new Map<string, Fault>();
	let given: (string | JsonObject)[] = [];

	/** A fault by its name, or as it is written: `status: 503`. @throws HeronError standIn.fault */
	function readFault(given: string | JsonObject): Fault {
		if (typeof given === 'string') {
			const named = spec.faults.get(given.trim());
			if (named) return named;
		}
		const value =
			typeof given === 'string' ? parseYaml('fault', /:/.test(given) ? `{${given}}` : `{${given}: true}`).value : given;
		const wrong: string[] = [];
		checkFault(value, (at, message) => wrong.push(at.length > 0 ? `${at.join('.')}: ${message}` : message));
		if (wrong.length > 0)
			throw new HeronError('standIn.fault', {
				fault: typeof given === 'string' ? given : writeJson(given),
				name: spec.name,
				detail: wrong[0]!
			});
		return parseFault(value);
	}

	return {
		set(wanted) {
			const next = new Map<string, Fault>();
			for (const one of wanted) next.set(typeof one === 'string' ? one : writeJson(one), readFault(one));
			active = next;
			given = wanted;
		},
		given: () => given,
		inWords: () => [...active].map(([name, fault]) => ({ name, words: faultWords(fault) })),
		refuses: () =>
			[...active.values()].some(
				(fault) => spoilsConnections(fault) && (fault.rate >= 100 || random() * 100 < fault.rate)
			),
		strike(answered, reading) {
			const strike = (fault: Fault, name: string) => {
				let own = memory.limits.get(fault);
				if (!own) memory.limits.set(fault, (own = {}));
				if (applyFault(fault, answered.by, answered.given, { random, now: () => ports.now(), memory: own }))
					answered.faults.push(name);
			};
			for (const [name, fault] of active) strike(fault, `${name} (${faultWords(fault)})`);
			const answer = spec.answers.find(({ id, off }) => !off && id === answered.by);
			if (answer?.fault) strike(answer.fault, faultWords(answer.fault));
			const asked = reading.asked.headers.find(([name]) => name.toLowerCase() === FAULT_HEADER)?.[1];
			if (asked !== undefined) {
				const fault = readFault(asked);
				strike(fault, `${faultWords(fault)}, asked for by the call`);
			}
		}
	};
}
