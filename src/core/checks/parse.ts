import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { asList, asText } from '../model/written.ts';
import type { Check } from './check.ts';
import { checkKind, isCheckName } from './kinds.ts';
import { relationNames } from './relations/index.ts';

/** A check in full; undefined when no kind of check is named. */
export function parseCheck(value: Json): Check | undefined {
	if (!isObject(value)) return undefined;
	const key = Object.keys(value).find(isCheckName);
	if (!key) return undefined;
	const { form, settings = {} } = checkKind(key)!;
	const given = value[key] as Json;
	const common = {
		off: value.off === true || isObject(value.off),
		...(isObject(value.off) ? { pause: { because: asText(value.off.because), until: asText(value.off.until) } } : {}),
		...(value.should === true ? { should: true } : {})
	};
	if (form === 'value') {
		const own = Object.entries(value).filter(([name]) => Object.hasOwn(settings, name));
		return {
			kind: key,
			relations: [{ name: key, expected: given }],
			...(own.length > 0 ? { settings: Object.fromEntries(own) as JsonObject } : {}),
			...common
		};
	}
	const source = form === 'relations' ? (isObject(given) ? given : {}) : value;
	const relations = Object.keys(source)
		.filter((name) => relationNames.includes(name))
		.map((name) => ({ name, expected: source[name] as Json }));
	const selector = form === 'selector' && given ? String(given) : undefined;
	return { kind: key, relations, ...common, ...(selector === undefined ? {} : { selector }) };
}

/** The checks of a list in a file, without what is none. */
export const parseChecks = (value: unknown): Check[] =>
	asList(value).flatMap((check) => parseCheck(check as Json) ?? []);
