import { console } from './console.ts';
import { har } from './har.ts';
import { html } from './html.ts';
import { json } from './json.ts';
import { junit } from './junit.ts';
import type { ReportKind } from './kind.ts';
import { markdown } from './markdown.ts';
import { openapi } from './openapi.ts';
import { failedRows, rows } from './rows.ts';
import { sarif } from './sarif.ts';
import { tap } from './tap.ts';

export type { ReportKind, ReportOptions, ReportSink } from './kind.ts';
export { headFromData, resultFromData, type ResultHead, type ResultTail } from './read-json.ts';
export { ANNOTATIONS, annotations, type Annotations } from './annotations.ts';
export { columnsOfRows, faultsOf, notPassed, rowResults, type RowResult } from './rows.ts';
export { STYLE as PAGE_STYLE, text as pageText } from './page.ts';
export const consoleReport: ReportKind = console;
/** Reports that the command writes to a file. */
export const reportKinds: readonly ReportKind[] = [
	junit,
	json,
	html,
	markdown,
	tap,
	har,
	openapi,
	sarif,
	rows,
	failedRows
];
/** A kind of report by its key; undefined for one that nobody knows. */
export const reportKind = (key: string): ReportKind | undefined => reportKinds.find((kind) => kind.key === key);
