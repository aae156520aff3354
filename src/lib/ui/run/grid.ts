/** More columns of rows than these are in the CSV. */
export const MOST_COLUMNS = 6;
/** The columns of a table of rows: mark, number, values, what was kept. */
export const gridOf = (columns: readonly string[]): string =>
	`grid-template-columns: 22px 44px repeat(${Math.min(columns.length, MOST_COLUMNS)}, minmax(0, 1fr)) minmax(0, 3fr)`;
