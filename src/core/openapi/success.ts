import { isObject, type JsonObject } from '../model/json.ts';
import { isJsonType } from '../model/reply.ts';
import { inside, members, type Node, type OpenapiDocument } from './document.ts';
import type { OpenapiOperation } from './operations.ts';
import { lazySchema } from './schema.ts';

/** The answer of an operation when all is well: its node. What leads nowhere is told by the document's warnings. */
export function successOf({ document, node }: OpenapiOperation): Node<JsonObject> | undefined {
	const answers = members(inside(node, 'responses'));
	const [, given] = answers.find(([key]) => /^2\d\d$/.test(key)) ?? answers.find(([key]) => /^2XX$/i.test(key)) ?? [];
	if (!given) return undefined;
	try {
		const found = document.follow(given);
		return isObject(found.value) ? (found as Node<JsonObject>) : undefined;
	} catch {
		return undefined;
	}
}

/** Whether a header is defined for the answer of an operation when all is well. @param name in small letters */
export function answersHeader(operation: OpenapiOperation, name: string): boolean {
	const answer = successOf(operation);
	return answer !== undefined && members(inside(answer, 'headers')).some(([one]) => one.toLowerCase() === name);
}

/** The schema of an answer in JSON, as it stands in the document. */
export function jsonSchemaIn(document: OpenapiDocument, answer: Node<JsonObject>): Node | undefined {
	if (document.version === '2.0') {
		const schema = inside(answer, 'schema');
		return schema.value === undefined ? undefined : (schema as Node);
	}
	const [, media] =
		members(inside(answer, 'content')).find(([type]) => isJsonType(type.split(';')[0]!.trim().toLowerCase())) ?? [];
	const schema = media && isObject(media.value) ? inside(media as Node<JsonObject>, 'schema') : undefined;
	return schema?.value === undefined ? undefined : (schema as Node);
}

/** The schema of what an operation answers in JSON when all is well. */
export function successSchema(operation: OpenapiOperation): JsonObject | undefined {
	try {
		const answer = successOf(operation);
		const schema = answer && jsonSchemaIn(operation.document, answer);
		return schema && lazySchema(operation.document, schema, 'writeOnly');
	} catch {
		return undefined;
	}
}
