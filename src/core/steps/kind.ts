import type { Json } from '../model/json.ts';

/** A field of a step's file form. */
export interface StepField {
	name: string;
	doc: string;
	schema: Json;
	/** Reports what is wrong; `at` is the path below the field. */
	check(value: unknown, report: (at: (string | number)[], message: string) => void): void;
}

/** One kind of step; the key that is there says which one it is. How it is carried out is the runner's part. */
export interface StepKind {
	key: string;
	label: string;
	doc: string;
	example: Record<string, Json>;
	/** Its own fields, the naming one first; what all steps share is not among them. */
	fields: StepField[];
}
