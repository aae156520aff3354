import type { AnySchema } from 'yup';
import type { Json } from '../model/json.ts';
import type { Report } from '../model/shape.ts';

/** One kind of file in a project. */
export interface DocumentKind {
	name: string;
	/** The folder it lives in; empty for a kind of which there is one file, at the project's root. */
	folder: string;
	/** That file. */
	file?: string;
	doc: string;
	schema: AnySchema;
	example: Json;
	/** What a schema cannot say: ids that must differ, expressions that must be readable. */
	check?(value: Json, report: Report): void;
}
