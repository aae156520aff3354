import type { Json } from '#core/model/json.ts';
import type { Path } from '#core/reading/index.ts';

/** A value that was chosen in an answer. */
export interface ChosenValue {
	/** A JSONPath, or an XPath in XML. */
	selector: string;
	/** Its key. */
	label: string;
	path: Path;
	value: Json;
}

/** What can be done with values of an answer. */
export interface Choosing {
	check(values: ChosenValue[]): void;
	keep(values: ChosenValue[]): void;
	/** Makes a step of a link. */
	follow(link: string, selector: string): void;
	variable(name: string, value: Json): void;
}
