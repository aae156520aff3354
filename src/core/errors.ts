import type { Json } from './model/json-value.ts';
import { messageOf, type MessageCode } from './messages.ts';

/** Where in a project something stands. `line` and `column` count from 1. */
interface Place {
	file: string;
	line?: number;
	column?: number;
}

/** One thing that is wrong in a project's files. */
export interface Problem extends Place {
	code: MessageCode;
	message: string;
	/** Keys and indexes from the document's root to the value. */
	path: (string | number)[];
	/** A change of the same file that certainly fixes it; a value that is left out is taken away. */
	fix?: { label: string; edits: { path: (string | number)[]; value?: Json }[] };
	/** The value that is not there, where that is all that is wrong. */
	missing?: MissingValue;
}
/** A variable or a secret that has no value. */
export interface MissingValue {
	root: 'env' | 'secret';
	name: string;
}

/**
 * What could not be judged or carried out. The code is stable; the wording comes from one table.
 * `values` hold what the wording names, and are safe to send over the wire once redacted.
 */
export class HeronError extends Error {
	readonly code: MessageCode;
	readonly values: Record<string, string | number>;
	readonly problems: Problem[];

	constructor(
		code: MessageCode,
		values: Record<string, string | number> = {},
		options: { cause?: unknown; problems?: Problem[] } = {}
	) {
		super(messageOf(code, values), options.cause === undefined ? undefined : { cause: options.cause });
		this.name = 'HeronError';
		this.code = code;
		this.values = values;
		this.problems = options.problems ?? [];
	}
}

/** The message of anything that was thrown: some libraries throw plain objects with a message. */
export const textOf = (error: unknown): string =>
	typeof error === 'object' && error !== null && 'message' in error ? String(error.message) : String(error);

/** `file:line:column: message`, the form that editors and terminals can jump to. */
export function problemLine(problem: Problem): string {
	const at = problem.line ? `:${problem.line}:${problem.column ?? 1}` : '';
	return `${problem.file}${at}: ${problem.message}`;
}
