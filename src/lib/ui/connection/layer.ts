import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
import { getIn, setIn, type Path } from '#core/model/path.ts';

/** What a setting is where it is written, and what it is without that. */
export interface Layered {
	own: Json | undefined;
	inherited: Json | undefined;
}

/** A setting in a layer of a connection: everywhere (empty), or what differs in an environment. */
export function settingIn(value: Json, layer: string, path: Path): Layered {
	const everywhere = getIn(value, path);
	return layer
		? { own: getIn(value, ['environments', layer, ...path]), inherited: everywhere }
		: { own: everywhere, inherited: undefined };
}

const isEmpty = (value: Json | undefined): boolean => isObject(value) && Object.keys(value).length === 0;

/** The connection with a setting changed in a layer; maps that are left empty go. */
export function withSetting(value: Json, layer: string, path: Path, next: Json | undefined): Json {
	const at = layer ? ['environments', layer, ...path] : path;
	let changed = setIn(value, at, next);
	for (let depth = at.length - 1; depth > 0; depth--) {
		const above = at.slice(0, depth);
		if (isEmpty(getIn(changed, above))) changed = setIn(changed, above, undefined);
	}
	return changed;
}

/** Environments in which something differs. */
export const layersOf = (value: Json): string[] =>
	isObject(value) && isObject(value.environments) ? Object.keys(value.environments as JsonObject) : [];
