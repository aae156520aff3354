import { isObject, writeJson, type Json } from './json.ts';
import { parseTemplate } from 'url-template';

/** An expression of RFC 6570 beyond a single name: with an operator, several names, or a modifier. */
const EXPRESSION = /^([+#./;?&]?)((?:[\w.%]+(?:\*|:[1-9]\d{0,3})?)(?:,[\w.%]+(?:\*|:[1-9]\d{0,3})?)*)$/;

/** An expression of a URI template (RFC 6570 section 2.2). */
export interface UriExpression {
	/** As it stands between the braces. */
	text: string;
	names: string[];
}

/** Reads what stands between braces; undefined for a single name, which is a path parameter like any other, and for what is none. */
export function uriExpression(text: string): UriExpression | undefined {
	const [, operator, list = ''] = EXPRESSION.exec(text) ?? [];
	if (operator === undefined || (operator === '' && /^\w+$/.test(list))) return undefined;
	return { text, names: list.split(',').map((one) => one.replace(/(\*|:\d+)$/, '')) };
}

type Value = string | number | boolean | null | (string | number | boolean | null)[] | Record<string, string>;

const scalar = (value: Json): string | null =>
	value === null
		? null
		: typeof value === 'string'
			? value
			: isObject(value) || Array.isArray(value)
				? writeJson(value)
				: String(value);

/** Expands an expression (RFC 6570, all levels); a name without a value is left out, as section 3.2.1 says. */
export function expandUri({ text }: UriExpression, values: ReadonlyMap<string, Json>): string {
	const context: Record<string, Value> = {};
	for (const [name, value] of values)
		context[name] = Array.isArray(value)
			? value.map(scalar)
			: isObject(value)
				? Object.fromEntries(Object.entries(value).map(([key, one]) => [key, scalar(one as Json) ?? '']))
				: scalar(value);
	return parseTemplate(`{${text}}`).expand(context as Parameters<ReturnType<typeof parseTemplate>['expand']>[0]);
}
