import { HeronError, textOf } from '#core/errors.ts';
import { parseStep } from '#core/steps/index.ts';
import { isObject, parseJson, type JsonObject } from '#core/model/json.ts';
import { isJsonType } from '#core/model/reply.ts';
import { bodiesOf, bundled, nameOf } from '#core/openapi/index.ts';
import { operationOfStep } from '#core/project/index.ts';
import { decodeText } from '#core/values/index.ts';
import type { BodySchema } from '../protocol.ts';
import { files, type Handler, workspaceNow } from './context.ts';

const plain = (type: string): string => type.split(';')[0]!.trim().toLowerCase();

/** The media type of a kind of body; empty for JSON, which has many. */
const TYPES: Record<string, string> = {
	form: 'application/x-www-form-urlencoded',
	multipart: 'multipart/form-data'
};

/** What is known of a step's body of JSON or of a form: by the schema that it names, else by the definition of its call. */
export const bodySchema: Handler<'bodySchema'> = ({ order: { collection, step: raw } }) => {
	const step = parseStep(raw);
	const named = step.send?.body?.schema;
	if (named) return Promise.resolve({ file: named, operation: '', schema: readSchema(named), encoding: {} });
	const operation = operationOfStep(workspaceNow(), collection, step);
	if (!operation) return Promise.resolve(null);
	const form = TYPES[step.send?.body?.kind ?? ''];
	const wanted = form ?? plain(step.send?.body?.type ?? 'application/json');
	const fits = (type: string) => (form === undefined ? isJsonType(type) : type === form);
	const bodies = bodiesOf(operation).filter(({ type, schema }) => schema && fits(plain(type)));
	const body = bodies.find(({ type }) => plain(type) === wanted) ?? bodies[0];
	if (!body?.schema) return Promise.resolve(null);
	const found: BodySchema = {
		file: operation.document.file,
		operation: nameOf(operation),
		schema: bundled(body.schema),
		encoding: body.encoding
	};
	return Promise.resolve(found);
};

function readSchema(file: string): JsonObject {
	const bytes = files.get(file);
	if (!bytes) throw new HeronError('file.missing', { file });
	try {
		const value = parseJson(decodeText(bytes).text);
		if (isObject(value)) return value as JsonObject;
	} catch (cause) {
		throw new HeronError('schema.wrong', { file, detail: textOf(cause) }, { cause });
	}
	throw new HeronError('schema.wrong', { file, detail: 'it is no object' });
}
