import type { Json } from '../model/json.ts';

/** A base address in which variables of the environment stand, as far as those are known. */
export const addressOf = (base: string, values: Readonly<Record<string, Json>>): string =>
	base.replace(/\{\$env\.(\w+)\}/g, (whole, name: string) =>
		Object.hasOwn(values, name) ? String(values[name]) : whole
	);
