import { HeronError, textOf } from '#core/errors.ts';
import { compilePattern } from '#core/values/index.ts';
import vm from 'node:vm';

/** Milliseconds that one text may take. */
const LIMIT = 500;

interface Tester {
	test(text: string): boolean;
}

/**
 * A pattern of a schema. It runs in linear time; one with look-around or back-references cannot, and has a time limit.
 * @throws HeronError pattern.syntax; pattern.slow when a text takes too long
 */
export function schemaPattern(source: string): Tester {
	try {
		return compilePattern(source);
	} catch (error) {
		return limited(source, native(source) ?? raise(error));
	}
}

const raise = (error: unknown): never => {
	throw error;
};

/** ECMA-262's own, with the flag u as JSON Schema has it, or without for what it refuses. */
function native(source: string): RegExp | undefined {
	for (const flags of ['u', ''])
		try {
			return new RegExp(source, flags);
		} catch {
			// the next, or the error of the linear reader
		}
	return undefined;
}

function limited(source: string, pattern: RegExp): Tester {
	// only from another context can a pattern that runs be stopped
	const context: { pattern: RegExp; text: string } = { pattern, text: '' };
	vm.createContext(context);
	const script = new vm.Script('pattern.test(text)');
	return {
		test(text) {
			context.text = text;
			try {
				return script.runInContext(context, { timeout: LIMIT }) as boolean;
			} catch (cause) {
				if ((cause as NodeJS.ErrnoException).code !== 'ERR_SCRIPT_EXECUTION_TIMEOUT')
					throw new HeronError('pattern.syntax', { pattern: source, detail: textOf(cause) }, { cause });
				throw new HeronError('pattern.slow', { pattern: source, limit: `${LIMIT} ms` }, { cause });
			}
		}
	};
}
