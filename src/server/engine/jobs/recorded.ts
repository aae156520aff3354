import { inEnvironment } from '#core/documents/connection.ts';
import { emptyMemory, scopeOf } from '#core/run/index.ts';
import { readHar } from '#core/exchange/index.ts';
import { answersOf, originsOf } from '#core/stand-in/index.ts';
import { contextOf, type Handler, type LookupContext } from './context.ts';

export const recorded: Handler<'recorded'> = async (job, redactor) => {
	const { order } = job;
	const { calls: list, notes } = order.har === undefined ? { calls: order.calls ?? [], notes: [] } : readHar(order.har);
	const origins = originsOf(list);
	const origin = order.origin || (origins[0]?.origin ?? '');
	const bases = await basesAt(origin, await contextOf(job, order.environment, redactor));
	const made = answersOf(list, origin, [...bases, order.base.replace(/\/+$/, '')]);
	return { ...made, notes: [...notes, ...made.notes], origin, origins };
};

/** Paths below which connections call an origin. */
async function basesAt(origin: string, context: LookupContext): Promise<string[]> {
	const { workspace, environment, evaluator, ports } = context;
	const scope = scopeOf(context, emptyMemory(ports));
	const bases: string[] = [];
	for (const connection of workspace.connections.values()) {
		const { base } = inEnvironment(connection, environment);
		// one that does not resolve called nothing
		const address = await Promise.resolve(base)
			.then((text) => evaluator.text(text, scope))
			.catch(() => '');
		if (!URL.canParse(address) || new URL(address).origin !== origin) continue;
		bases.push(new URL(address).pathname.replace(/\/+$/, ''));
	}
	return bases;
}
