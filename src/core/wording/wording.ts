/**
 * What is said for each code: the sentence, and where it names something an example of each value. `{name}` is filled from
 * the values of an error; other braces stay.
 */
export type Wordings = Record<string, string | readonly [sentence: string, example: Record<string, string | number>]>;
