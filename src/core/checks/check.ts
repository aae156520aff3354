import type { Json } from '../model/json.ts';
import type { CheckName } from './kinds.ts';

/** One relation of a check as it was written: its name and what is expected. */
interface Relation {
	name: string;
	expected: Json;
}

/** Why a check is off, and until when. */
interface Pause {
	because: string;
	/** The last day on which it is off, as YYYY-MM-DD; empty for no end. */
	until: string;
}

/** One assertion about a reply. All relations must hold. */
export interface Check {
	kind: CheckName;
	selector?: string;
	relations: Relation[];
	/** Other fields that the kind knows. */
	settings?: Record<string, Json>;
	off: boolean;
	pause?: Pause;
	/** It is reported when it does not hold, and fails nothing. */
	should?: boolean;
}
