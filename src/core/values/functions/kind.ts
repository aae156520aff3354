import type { FunctionPorts, Result } from '../scope.ts';

/** A function of the expression language. The example is a test: the expression and what it gives. */
export interface ExpressionFunction {
	name: string;
	/** Names of the arguments, `?` behind the optional ones. */
	takes: string[];
	doc: string;
	/** `gives` is left out where the result is different each time; then `matches` says what it looks like. */
	example: { expression: string; gives?: Result; matches?: RegExp };
	run(ports: FunctionPorts, ...args: unknown[]): unknown;
}
