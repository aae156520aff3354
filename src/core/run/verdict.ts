/** Where something was found. */
export interface Place {
	scenario: string;
	step: string;
	row?: number;
	/** What was found there, in a few words. */
	note?: string;
}

/** One condition of a gate, and what became of it. */
export interface Sentence {
	key: string;
	/** `no step fails`. */
	text: string;
	holds: boolean;
	/** `2 failed`. */
	because: string;
	places: Place[];
}

/** What a gate says of a run. */
export interface Verdict {
	/** The pipeline may go on. */
	holds: boolean;
	/** The command's exit code: 1, or 3 where only what could not be carried out is in the way. */
	code: 0 | 1 | 3;
	sentences: Sentence[];
	/** How much of the definitions was touched, where that was counted. */
	covered?: { touched: number; all: number };
	/** What else is to be known, such as entries of the quarantine that can go. */
	notes: string[];
}
