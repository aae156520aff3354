import type { FunctionPorts } from '../scope.ts';
import { digest } from './digest.ts';
import { encoding } from './encoding.ts';
import { fakeKinds, makeFake } from './fake.ts';
import { languageNames } from './own.ts';
import type { ExpressionFunction } from './kind.ts';
import { random } from './random.ts';
import { time } from './time.ts';

const list: ExpressionFunction[] = [...digest, ...encoding, ...time, ...random];
const bound = new WeakMap<FunctionPorts, Record<string, unknown>>();

/** All functions of the expression language beyond JSONata's own. */
export const functions = {
	list,
	fakeKinds,
	/** The functions as the language calls them, over one run's ports. */
	bind(ports: FunctionPorts): Record<string, unknown> {
		let table = bound.get(ports);
		if (!table) {
			table = { fake: makeFake(ports) };
			for (const fn of list) table[fn.name] = (...args: unknown[]) => fn.run(ports, ...args);
			bound.set(ports, table);
		}
		return table;
	}
};

/** Every function that an expression may call, ours and the language's, by name. */
export const functionNames: readonly string[] = [...list.map(({ name }) => name), ...languageNames];
