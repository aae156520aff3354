import { isObject, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { HeronError } from '../errors.ts';
import type { ContentView, OperationView, SchemaRow } from '../model/operation-view.ts';
import { bodiesOf } from './bodies.ts';
import { parametersOf } from './parameters.ts';
import { answersOf, contentOf } from './contract.ts';
import { inside, members, type Node } from './document.ts';
import { nameOf, type OpenapiOperation } from './operations.ts';
import { sampleOf } from './sample.ts';
import { lazySchema } from './schema.ts';
import { schemaRows } from './schema-rows.ts';
import { requirementsOf } from './security.ts';

const text = (value: unknown): string => (typeof value === 'string' ? value : '');
const NO_ROW: SchemaRow = { depth: 0, name: '', type: '', required: false, limits: '', doc: '' };

function exampleText(schema: JsonObject, given: Json | undefined): string {
	const value = given ?? sampleOf(schema, { fill: 'full' });
	return value === undefined ? '' : typeof value === 'string' ? value : writeJson(value, 2);
}

/** What a document says of an operation. What leads nowhere is left out: its warnings tell. */
export function viewOperation(operation: OpenapiOperation): OperationView {
	const { document, node, id } = operation;
	const alone = (schema: Node, otherWay: 'readOnly' | 'writeOnly'): JsonObject => {
		try {
			return lazySchema(document, schema, otherWay);
		} catch (error) {
			if (error instanceof HeronError) return {};
			throw error;
		}
	};
	return {
		name: nameOf(operation),
		...{ id, summary: text(node.value.summary), description: text(node.value.description) },
		deprecated: node.value.deprecated === true,
		parameters: parametersOf(operation)
			.filter((one) => one.in !== 'body' && one.in !== 'formData')
			.map((one) => {
				const [row = NO_ROW] = schemaRows(one.schema);
				return {
					...{ place: one.in, name: one.name, required: one.required },
					row: { ...row, doc: one.description || row.doc }
				};
			}),
		bodies: bodiesOf(operation).map(({ type, required, schema, example }) => ({
			...{ type, required, rows: schema ? schemaRows(schema) : [] },
			example: schema || example !== undefined ? exampleText(schema ?? {}, example) : ''
		})),
		answers: answersOf(operation).map((answer) => ({
			status: answer.key,
			description: text(answer.node.value.description),
			headers: members(inside(answer.node, 'headers')).flatMap(([name, given]) => {
				const header = document.follow(given);
				if (!isObject(header.value)) return [];
				const own = header as Node<JsonObject>;
				const schema = document.version === '2.0' ? (header as Node) : (inside(own, 'schema') as Node);
				const [row = NO_ROW] = schema.value === undefined ? [] : schemaRows(alone(schema, 'writeOnly'));
				return [
					{ name, row: { ...row, required: own.value.required === true, doc: text(own.value.description) || row.doc } }
				];
			}),
			bodies: (contentOf(operation, answer) ?? []).map(([type, schema]): ContentView => {
				const own = schema && alone(schema, 'writeOnly');
				return { type, rows: own ? schemaRows(own) : [], example: own ? exampleText(own, undefined) : '' };
			})
		})),
		security: requirementsOf(operation).map((one) =>
			one.length === 0
				? 'nobody is asked'
				: one
						.map(({ scheme, scopes }) => (scopes.length > 0 ? `${scheme} (${scopes.join(', ')})` : scheme))
						.join(' and ')
		)
	};
}
