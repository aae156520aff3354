import { textOf } from '#core/errors.ts';
import { readCalls, stepOfCall, type MadeStep } from '#core/exchange/index.ts';
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

/** The steps that a text becomes, or why it becomes none. What one makes is there for the next. */
export function readPasted(text: string, ground: PasteGround): { steps: MadeStep[]; trouble: string } {
	if (text.trim() === '') return { steps: [], trouble: '' };
	try {
		const taken = new Set(ground.files.map((path) => path.replace(/\.yaml$/, '')));
		const secrets = new Set(ground.secrets);
		const connections = ground.connections.map(({ name, base }) => ({ name, base: addressOf(base, ground.values) }));
		const steps = readCalls(text).map((call) => {
			const made = stepOfCall(call, { connections, taken, secrets });
			for (const { name } of made.secrets) secrets.add(name);
			for (const { path, value } of made.documents) {
				taken.add(path.replace(/\.yaml$/, ''));
				if (path.startsWith('connections/')) connections.push({ name: made.connection, base: String(value.base) });
			}
			return made;
		});
		return { steps, trouble: '' };
	} catch (error) {
		return { steps: [], trouble: textOf(error) };
	}
}
