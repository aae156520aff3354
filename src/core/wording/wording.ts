/**
 * What is said for each code. `{name}` is filled from the values of an error; doubled braces stand for themselves. What the
 * values are shows an example of each (`examples.ts`), which pages need not load.
 */
export type Wordings = Record<string, string>;
