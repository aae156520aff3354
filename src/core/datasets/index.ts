export { namesOf, typeOfCells, valueOfCell } from './cells.ts';
export { csvLine } from './csv.ts';
export { SAMPLE_ROWS, type Column, type DataRow, type Dataset, type DataSpec } from './dataset.ts';
export { blockOf, delimiterName, encodingOf, formOf, headerDoubt, looksLikeHeader, type CsvForm } from './detect.ts';
export { editedText, newText, type EditedText } from './edited.ts';
export { formOfTable, makeRows, TABLE_FORMS, writeTable, type MadeColumn, type TableForm } from './generate.ts';
export { columnsOfSchema } from './schema.ts';
export { drawn } from './sample.ts';
export { columnsOf, rowOf, tableOf } from './table.ts';
