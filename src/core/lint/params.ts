import { isObject, type Json, type JsonObject } from '../model/json.ts';

/** An entry of `headers`, `query` and the like, with its place below the step. */
export interface Entry {
	name: string;
	value: Json;
	off: boolean;
	at: (string | number)[];
}

/** The entries of a map or list of parameters as they are written. */
export function entriesOf(raw: JsonObject, key: string): Entry[] {
	const given = raw[key];
	const one = (name: string, value: Json, at: (string | number)[]): Entry =>
		isObject(value)
			? { name, value: (value.value ?? null) as Json, off: value.off === true, at }
			: { name, value, off: false, at };
	if (Array.isArray(given))
		return given.flatMap((pair, index) =>
			Array.isArray(pair) ? [one(String(pair[0]), pair[1] ?? null, [key, index])] : []
		);
	if (!isObject(given)) return [];
	return Object.entries(given).map(([name, value]) => one(name, value as Json, [key, name]));
}

/** The same parameters without one of them, or with another name for it; order is kept. */
export function changed(raw: JsonObject, key: string, at: string | number, name?: string): Json | undefined {
	const given = raw[key];
	if (Array.isArray(given)) {
		const list = given.flatMap((pair, index) =>
			index !== at ? [pair] : name === undefined ? [] : [[name, (pair as Json[])[1] ?? null]]
		);
		return list.length > 0 ? list : undefined;
	}
	const map = Object.entries((given ?? {}) as JsonObject).flatMap(([own, value]) =>
		own !== at ? [[own, value] as const] : name === undefined ? [] : [[name, value] as const]
	);
	return map.length > 0 ? Object.fromEntries(map) : undefined;
}
