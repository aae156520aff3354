import { isObject, type Json } from '#core/model/json.ts';

/** How high a field is, in pixels. */
export const FIELD_HEIGHT = 28;
/** Forms with more fields are drawn in pieces. */
export const WIDE = 120;
/** How many fields a value has. */
export const rowsOf = (value: Json | undefined): number =>
	Array.isArray(value)
		? value.reduce<number>((sum, one) => sum + rowsOf(one), 0)
		: isObject(value)
			? Object.values(value).reduce<number>((sum, one) => sum + rowsOf(one as Json), 1)
			: 1;
