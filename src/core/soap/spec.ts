import { isObject, type Json, type JsonObject } from '../model/json.ts';

/** A call of an operation: values by which its envelope is written, or the envelope itself. */
export interface SoapSpec {
	/** `Service.Operation`. */
	operation: string;
	/** `1.1`, `1.2`; empty for the first that the definition has. */
	version: string;
	/** A file in definitions/, where several know the operation. */
	definition: string;
	values: Json;
	headers?: JsonObject;
	envelope?: string;
	/** The fields of WS-Addressing are added. */
	addressing: boolean;
	/** Bytes travel as parts of their own (MTOM). */
	mtom: boolean;
	/** Values that the definition does not know are sent all the same. */
	unknown: boolean;
	/** Files that travel beside the envelope. */
	attachments: Attachment[];
}

interface Attachment {
	/** Path in the project. */
	file: string;
	/** By which the envelope speaks of it, as cid:ID; its file's name when it is left out. */
	id: string;
	/** Its media type; by its ending when it is left out. */
	type: string;
}

/** The keys of a `soap:`. */
export const SOAP_FIELDS = [
	'operation',
	'version',
	'definition',
	'values',
	'headers',
	'envelope',
	'addressing',
	'mtom',
	'unknown',
	'attachments'
];

/** A `soap:` in full, defaults filled in. */
export function parseSoap(value: unknown): SoapSpec {
	const given = isObject(value) ? value : {};
	return {
		operation: String(given.operation ?? ''),
		// YAML reads 1.1 and 1.2 as numbers
		version: given.version === undefined || given.version === null ? '' : String(given.version),
		definition: String(given.definition ?? ''),
		values: (given.values ?? {}) as Json,
		...(isObject(given.headers) ? { headers: given.headers as JsonObject } : {}),
		...(typeof given.envelope === 'string' ? { envelope: given.envelope } : {}),
		addressing: given.addressing === true,
		mtom: given.mtom === true,
		unknown: given.unknown === true,
		attachments: (Array.isArray(given.attachments) ? given.attachments : []).map((one: unknown) => {
			const own = isObject(one) ? one : { file: one };
			const file = String(own.file ?? '');
			return { file, id: String(own.id ?? file.replace(/^.*\//, '')), type: String(own.type ?? '') };
		})
	};
}
