import type { SentCall } from './call.ts';
import { stepOfCall, type MadeStep, type StepMaking } from './to-step.ts';

/** Steps of calls in their order; what one makes (a connection, a secret) is there for the next. @throws HeronError value.address */
export function stepsOfCalls(calls: readonly SentCall[], making: StepMaking): MadeStep[] {
	const taken = new Set(making.taken);
	const secrets = new Set(making.secrets);
	const kept = new Map(making.kept);
	const connections = [...making.connections];
	return calls.map((call) => {
		const made = stepOfCall(call, { ...making, connections, taken, secrets, kept });
		for (const { name, value } of made.secrets) {
			secrets.add(name);
			if (value !== '') kept.set(value, name);
		}
		for (const { path, value } of made.documents) {
			taken.add(path.replace(/\.yaml$/, ''));
			if (path.startsWith('connections/')) connections.push({ name: made.connection, base: String(value.base) });
		}
		return made;
	});
}
