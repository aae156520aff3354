import { bodyKinds, type BodyKind } from '../../bodies/index.ts';
import { didYouMean } from '../../messages.ts';
import { isObject, type Json } from '../../model/json.ts';
import type { StepField } from '../kind.ts';

type Report = Parameters<StepField['check']>[1];

/** @param kinds those that may stand there */
export function checkBody(value: unknown, report: Report, kinds: readonly BodyKind[] = bodyKinds): void {
	const words = kinds.map((k) => k.key);
	const bodyKind = (key: string) => kinds.find((kind) => kind.key === key);
	if (!isObject(value)) return report([], `a kind of body is wanted: ${words.join(', ')}`);
	const keys = Object.keys(value).filter((key) => key !== 'type' && key !== 'schema');
	for (const key of keys) {
		if (!bodyKind(key)) report([key], `unknown kind of body "${key}"${didYouMean(key, [...words, 'type'])}`);
	}
	if (keys.length !== 1) report([], `a body has exactly one of ${words.join(', ')}`);
	for (const key of keys) bodyKind(key)?.check(value[key], (at, message) => report([key, ...at], message));
	if (value.type !== undefined && typeof value.type !== 'string') report(['type'], 'a media type is wanted');
	if (value.schema === undefined) return;
	if (value.json === undefined) report(['schema'], 'a body of JSON alone has a schema');
	else if (typeof value.schema !== 'string' || !/^schemas\/.+\.json$/.test(value.schema))
		report(['schema'], 'a file of schemas/ is wanted: schemas/booking.json');
}

/** JSON Schema of a body: one kind, and a media type. */
export const bodySchema = (kinds: readonly BodyKind[] = bodyKinds): Json => ({
	type: 'object',
	properties: {
		...Object.fromEntries(kinds.map((kind) => [kind.key, kind.schema])),
		type: { type: 'string' },
		schema: { type: 'string', description: 'Of JSON: the JSON Schema by which its form is made.' }
	},
	additionalProperties: false,
	oneOf: kinds.map((kind) => ({ required: [kind.key] }))
});
