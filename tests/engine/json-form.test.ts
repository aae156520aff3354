import { faultsIn, startOf } from '#core/json-form/index.ts';
import type { Json, JsonObject } from '#core/model/json.ts';
import { bodiesOf, bundled, CHOICES, NAMED, operationsOf, readOpenapi } from '#core/openapi/index.ts';
import { createSchemas } from '#server/engine/json-schema.ts';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';

const validate = createSchemas(() => undefined);
const examples = join(import.meta.dirname, '../../node_modules/@readme/oas-examples');
const documents = ['2.0', '3.0', '3.1'].flatMap((version) =>
	readdirSync(join(examples, version, 'json'))
		.filter((file) => file.endsWith('.json'))
		.map((file) => join(examples, version, 'json', file))
);

/** The schema without what samples alone know: a validator that is strict would not take it. */
const plain = (schema: JsonObject): JsonObject =>
	JSON.parse(
		JSON.stringify(schema, (key, value: unknown) => (key === CHOICES || key === NAMED ? undefined : value))
	) as JsonObject;
const random = (seed: number) => () => (seed = (seed * 16807) % 2147483647) / 2147483647;

/** Values that differ from one that fits in one place each. */
function spoiled(value: Json, deep = 0): Json[] {
	if (deep > 3) return [];
	if (Array.isArray(value))
		return [
			{},
			...value
				.slice(0, 2)
				.flatMap((one, at) =>
					spoiled(one as Json, deep + 1).map((own) => value.map((other, n) => (n === at ? own : other)) as Json)
				)
		];
	if (typeof value === 'object' && value !== null)
		return Object.entries(value as JsonObject).flatMap(([name, one]) => {
			const { [name]: _, ...rest } = value as JsonObject;
			return [rest, ...spoiled(one, deep + 1).map((own) => ({ ...(value as JsonObject), [name]: own }))];
		});
	return typeof value === 'string' ? [7, ''] : ['x', -1e9, null];
}

describe.each(documents.map((file) => [file.split('/').slice(-3).join('/'), file]))('bodies of %s', (_, file) => {
	test('what the form says of a value is what the validator says', async () => {
		const document = readOpenapi('definitions/x.json', () => readFileSync(file, 'utf8'));
		const wrong: string[] = [];
		let looked = 0;
		for (const operation of operationsOf(document))
			for (const { type, schema } of bodiesOf(operation)) {
				if (!schema || !/json/.test(type)) continue;
				const root = bundled(schema);
				const own = plain(root);
				const fits = async (value: Json) => (await validate(value, { schema: own, name: 'body' })).length === 0;
				const made = (['minimal', 'full', 'random', 'random'] as const).map((kind, n) =>
					startOf(root, root, kind, random(n + 1))
				);
				for (const value of [...made, ...spoiled(made[1]!).slice(0, 60)]) {
					looked++;
					const faults = faultsIn(root, root, value);
					// a form does not look at all that a schema can say, and raises no false alarm
					if (faults.length > 0 && (await fits(value)))
						wrong.push(
							`${operation.method} ${operation.template}: ${JSON.stringify(value).slice(0, 80)}: ${faults[0]!.path.join('.')} ${faults[0]!.message}`
						);
				}
			}
		expect(wrong).toEqual([]);
		expect(looked).toBeGreaterThanOrEqual(0);
	});
});
