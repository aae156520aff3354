import type { MessageCode } from '../messages.ts';
import type { Step } from '../steps/index.ts';
import type { Json, JsonObject } from '../model/json.ts';

type Path = (string | number)[];

/** A change that certainly fixes a finding: values at paths below what was looked at; undefined takes one away. */
interface LintFix {
	label: string;
	edits: { path: Path; value?: Json }[];
}

/** Something that is allowed, and seldom meant. */
export interface Finding {
	/** Where, below the step. */
	at: Path;
	values?: Record<string, string | number>;
	fix?: LintFix;
}

/** One thing that is looked for in a step that sends. */
export interface StepRule {
	code: MessageCode & `lint.${string}`;
	doc: string;
	/** A step that has it, for the tests and the manual. */
	example: JsonObject;
	find(step: Step & { send: NonNullable<Step['send']> }, raw: JsonObject): Finding[];
}
