export { eventsOf, hexLines, keysTwice, readBody, type BodyForm, type ReadBody } from './read.ts';
export { entriesOf, LINES_MOST, pointerOf, treeLines, type Opened, type Path, type TreeLine } from './tree.ts';
export { FOUND_MOST, searchData } from './search.ts';
export {
	findTables,
	orderedRows,
	tableCsv,
	tableRow,
	type TableCell,
	type TableInfo,
	type TableRow,
	type TableView
} from './tables.ts';
export { headerNotes, type HeaderNote, type NoteContext } from './header-notes.ts';
