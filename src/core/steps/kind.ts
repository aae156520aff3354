import type { Check } from '../checks/index.ts';
import type { Json } from '../model/json.ts';
import type { CallSpec, Kept, ReceiveSpec, SendSpec, StepCommon } from '../model/step.ts';

/** A field of a step's file form. */
export interface StepField {
	name: string;
	doc: string;
	/** What the field is called in a form; left out: its name. */
	label?: string;
	schema: Json;
	/** Reports what is wrong; `at` is the path below the field. */
	check(value: unknown, report: (at: (string | number)[], message: string) => void): void;
}

/** What a step can do while it is carried out. */
export interface Acting {
	/** Fills in the expressions of a text. @throws HeronError value.* */
	text(written: string): string | Promise<string>;
	/** Fills in the expressions of a value. @throws HeronError value.* */
	value(written: Json): Json | Promise<Json>;
	/** Sets a variable for the steps below. */
	set(name: string, value: Json): void;
	/** Says why the step came out as it did. */
	reason(words: string): void;
	/** Waits, unless the run is stopped. @param ms milliseconds */
	pause(ms: number): Promise<void>;
	/** Sends a request, judges the reply and keeps values of it. */
	send(spec: SendSpec): Promise<void>;
	/** Waits for a call to a stand-in. */
	receive(spec: ReceiveSpec): Promise<void>;
	/** Carries out a script in its sandbox. */
	script(text: string): Promise<void>;
	/** Carries out another scenario. */
	call(spec: CallSpec): Promise<void>;
}

/** What a step names of the project's other documents. */
export interface Named {
	what: 'connection' | 'credential' | 'stand-in';
	/** The field that names it. */
	field: string;
	/** Empty where nothing is named. */
	name: string;
}

/**
 * One kind of step, with all that is asked of it; the key that is there says which one it is.
 * `Spec` is what a step of this kind says, read from its own fields.
 */
export interface StepKind<Key extends string = string, Spec = unknown> {
	key: Key;
	label: string;
	doc: string;
	example: Record<string, Json>;
	/** What a new one begins with. */
	fresh(project: { standIns: readonly string[] }): Record<string, Json>;
	/** Its own fields, the naming one first; what all steps share is not among them. */
	fields: StepField[];
	/** What the fields say, defaults filled in; what is wrong in them is reported by the fields. */
	parse(given: Record<string, unknown>): Spec;
	/** What it does, in a few words: for a row, and for reports. */
	summary(spec: Spec): string;
	/** What a row adds to that. */
	detail?(spec: Spec): string;
	/** What a rehearsal says of it, as it is not carried out there. */
	note(spec: Spec, step: StepCommon): string;
	/** Values in which expressions are filled in; those of its checks are not among them. */
	reads?(spec: Spec): unknown[];
	/** What it checks. */
	checks?(spec: Spec): Check[];
	/** What it keeps for later steps, as far as that is known before it runs; only kinds that keep something have it. */
	keeps?(spec: Spec): Pick<Kept, 'name' | 'secret'>[];
	/** Variables that it sets for the steps below. */
	sets?(spec: Spec): Record<string, Json>;
	/** What it names of the project's other documents; a name that nothing bears is a problem of its field. */
	names?(spec: Spec): Named[];
	/** What it does may check what was sent above. */
	judges?: true;
	/** The steps below one that passed are skipped. */
	ends?: true;
	/** It is offered where the project has some of these. */
	wants?: 'stand-ins';
	/** It does something by itself: it can be carried out from its page. */
	alone?: true;
	/** It can be repeated until a check of any kind, or an expression alone, holds. */
	until?: 'check' | 'that';
	/** Carries it out. @throws HeronError */
	run(spec: Spec, act: Acting): Promise<void>;
}
