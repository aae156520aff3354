export { hexLines, keysTwice, readBody, type BodyForm, type ReadBody } from './read.ts';
export { LINES_MOST, pointerOf, treeLines, type Opened, type Path, type TreeLine } from './tree.ts';
export { searchData } from './search.ts';
export {
	findTables,
	orderedRows,
	tableCsv,
	tableRow,
	type TableInfo,
	type TableRow,
	type TableView
} from './tables.ts';
export { withPage } from './page.ts';
export { fieldOf, selectorOf } from './selector.ts';
export { headerNotes } from './header-notes.ts';
