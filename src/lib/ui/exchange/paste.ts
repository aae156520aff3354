import { textOf } from '#core/errors.ts';
import { readCalls, stepsOfCalls, type MadeStep, type StepMaking } from '#core/exchange/index.ts';
import type { Json } from '#core/model/json.ts';
import { addressOf } from '#core/project/index.ts';

/** What of a project decides how a call is written there. */
export interface PasteGround {
	files: readonly string[];
	secrets: readonly string[];
	connections: readonly { name: string; base: string }[];
	/** Values of the environment's variables. */
	values: Readonly<Record<string, Json>>;
}

/** What a project has for steps that are made of calls. */
export const makingOn = ({ files, secrets, connections, values }: PasteGround): StepMaking => ({
	connections: connections.map(({ name, base }) => ({ name, base: addressOf(base, values) })),
	taken: new Set(files.map((path) => path.replace(/\.yaml$/, ''))),
	secrets: new Set(secrets)
});

/** The steps that a text becomes, or why it becomes none. */
export function readPasted(text: string, ground: PasteGround): { steps: MadeStep[]; trouble: string } {
	if (text.trim() === '') return { steps: [], trouble: '' };
	try {
		const steps = stepsOfCalls(readCalls(text), makingOn(ground));
		return { steps, trouble: '' };
	} catch (error) {
		return { steps: [], trouble: textOf(error) };
	}
}
