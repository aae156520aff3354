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

/** What can be done with values of an answer, once they are read. */
export interface Choosing {
	check(values: Promise<ChosenValue[]>): Promise<void>;
	keep(values: Promise<ChosenValue[]>): Promise<void>;
	/** Makes a step of a link. */
	follow(values: Promise<ChosenValue[]>): Promise<void>;
	variable(values: Promise<ChosenValue[]>): Promise<void>;
}
