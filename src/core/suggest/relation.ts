import type { Json, JsonObject } from '../model/json.ts';

/** Texts that are another one each time, and what stays the same about them. */
export const SHAPES: [RegExp, string][] = [
	[/^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/, '^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$'],
	[/^\d{4}-\d\d-\d\dT\d\d:\d\d(:\d\d(\.\d+)?)?(Z|[+-]\d\d:?\d\d)$/, '^\\d{4}-\\d\\d-\\d\\dT\\d\\d:\\d\\d'],
	[/^[A-Z]{2,4}-\d{3,}$/, '']
];

/** What a value that was chosen is most likely meant to be checked for. */
export function fittingRelation(value: Json): JsonObject {
	if (Array.isArray(value)) return { count: value.length };
	if (typeof value === 'object' && value !== null) return { type: 'object' };
	if (typeof value !== 'string') return { equals: value };
	const shape = SHAPES.find(([pattern]) => pattern.test(value));
	if (!shape) return { equals: value };
	const [, letters = '', digits = ''] = /^([A-Z]+)-(\d+)$/.exec(value) ?? [];
	return { matches: shape[1] || `^${letters}-\\d{${digits.length}}$` };
}
