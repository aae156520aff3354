import { writeJson, type Json, type JsonObject } from '../../model/json.ts';
import { shortened } from '../../model/shortened.ts';

/** breaking: who called rightly before may fail now; careful: may, by how they read it; harmless: nobody notices. */
export const LEVELS = ['breaking', 'careful', 'harmless'] as const;
/** How much a change matters to who calls. */
export type Level = (typeof LEVELS)[number];

/** What is another one in a schema, and what that means for who sends or receives its values. */
export interface SchemaChange {
	level: Level;
	/** The rule by which it is judged, a word or two. */
	rule: string;
	/** Where in the value: `$.nights`, empty for the value itself. */
	place: string;
	text: string;
}

/** sent: callers write the values; received: callers read them. */
export type Direction = 'sent' | 'received';

/** What is found while two schemas are compared. */
export class Findings {
	readonly direction: Direction;
	readonly #changes: Pick<SchemaChange[], 'push'>;

	/** @param changes what is found is added there */
	constructor(direction: Direction, changes: Pick<SchemaChange[], 'push'>) {
		this.direction = direction;
		this.#changes = changes;
	}

	tell(level: Level, rule: string, place: string, text: string): void {
		this.#changes.push({ level, rule, place, text });
	}

	/** Fewer values are allowed than before: who sends them breaks, who receives them does not notice. */
	narrower(rule: string, place: string, text: string): void {
		this.tell(this.direction === 'sent' ? 'breaking' : 'harmless', rule, place, text);
	}

	/** More values are allowed than before. */
	wider(rule: string, place: string, text: string): void {
		this.tell(this.direction === 'sent' ? 'harmless' : 'careful', rule, place, text);
	}
}

/** Looks at what keywords say of one place in two schemas. */
export type SchemaRule = (before: JsonObject, after: JsonObject, place: string, findings: Findings) => void;
/** Goes on with schemas within. */
export type LookDeeper = (before: Json, after: Json, place: string) => void;

const SHOWN = 60;
/** A value as JSON, cut where it is long. */
export const shown = (value: Json | undefined): string => {
	const text = value === undefined ? 'none' : writeJson(value);
	return shortened(text, SHOWN);
};
/** A list; empty for anything else. */
export const asList = (value: Json | undefined): Json[] => (Array.isArray(value) ? value : []);
