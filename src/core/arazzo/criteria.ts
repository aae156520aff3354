import { lookUp } from '../model/lookup.ts';
import { isObject, parseJson, type Json, type JsonObject } from '../model/json.ts';
import { jsonPathOf, singularPath } from '../selectors/index.ts';

const pointerOf = (path: (string | number)[]): string =>
	path.map((key) => `/${String(key).replaceAll('~', '~0').replaceAll('/', '~1')}`).join('');
const pathOfPointer = (pointer: string): string =>
	jsonPathOf(
		pointer
			.split('/')
			.slice(1)
			.map((key) => key.replaceAll('~1', '/').replaceAll('~0', '~'))
			.map((key) => (/^(0|[1-9]\d*)$/.test(key) ? Number(key) : key))
	);

/** A selector as a runtime expression (Arazzo 1.0.1 section 4.7); undefined where there is no equal. */
export function runtimeOfSelector(selector: string): string | undefined {
	if (selector === 'body') return '$response.body';
	const [, header] = /^header:([\w-]+)$/.exec(selector) ?? [];
	if (header) return `$response.header.${header}`;
	const [, pointer] = /^pointer:(\/.*)$/.exec(selector) ?? [];
	if (pointer) return `$response.body#${pointer}`;
	const path = selector.startsWith('$') ? singularPath(selector) : undefined;
	return path ? `$response.body${path.length > 0 ? `#${pointerOf(path)}` : ''}` : undefined;
}
/** The other way round. */
export function selectorOfRuntime(source: string): string | undefined {
	const [, header] = /^\$response\.header\.([\w-]+)$/.exec(source) ?? [];
	if (header) return `header:${header}`;
	if (source === '$response.body') return 'body';
	const [, pointer] = /^\$response\.body#(\/.*)$/.exec(source) ?? [];
	return pointer ? pathOfPointer(pointer) : undefined;
}

const RELATIONS: Record<string, string> = {
	equals: '==',
	not: '!=',
	below: '<',
	above: '>',
	atMost: '<=',
	atLeast: '>='
};
const scalar = (value: Json): boolean => value === null || typeof value !== 'object';
const literal = (value: Json): string =>
	typeof value === 'string' && !/^\$(steps|inputs)\./.test(value) ? `'${value.replaceAll("'", "''")}'` : String(value);

/** A check as conditions (Arazzo 1.0.1 section 4.6.11); undefined where there is no equal. Expected values are runtime ones already. */
export function criteriaOf(check: JsonObject): JsonObject[] | undefined {
	const { status, header, body, ...relations } = check;
	if (status !== undefined && Object.keys(relations).length === 0) {
		const list = [status].flat().map(String);
		const conditions = list.map((one) =>
			/^\d{3}$/.test(one)
				? `$statusCode == ${one}`
				: /^\dXX$/i.test(one)
					? `$statusCode >= ${one[0]}00 && $statusCode < ${Number(one[0]) + 1}00`
					: undefined
		);
		if (conditions.some((one) => one === undefined)) return undefined;
		const [only] = conditions;
		return [{ condition: conditions.length === 1 ? only! : conditions.map((one) => `(${one})`).join(' || ') }];
	}
	const place =
		typeof header === 'string'
			? `$response.header.${header}`
			: typeof body === 'string' && body !== ''
				? runtimeOfSelector(body)
				: undefined;
	if (!place) return undefined;
	const out: JsonObject[] = [];
	for (const [name, value] of Object.entries(relations)) {
		const operator = lookUp(RELATIONS, name);
		if (operator && scalar(value)) out.push({ condition: `${place} ${operator} ${literal(value)}` });
		else if (name === 'matches' && typeof value === 'string')
			out.push({ context: place, condition: value, type: 'regex' });
		else return undefined;
	}
	return out.length > 0 ? out : undefined;
}

const OPERATORS = Object.fromEntries(Object.entries(RELATIONS).map(([name, operator]) => [operator, name]));

function literalOf(text: string): Json | undefined {
	const [, quoted] = /^'((?:[^']|'')*)'$/.exec(text) ?? [];
	if (quoted !== undefined) return quoted.replaceAll("''", "'");
	if (/^\$(steps|inputs)\.[\w.-]+$/.test(text)) return text;
	try {
		const value = parseJson(text);
		return scalar(value) ? value : undefined;
	} catch {
		return undefined;
	}
}

/** Criteria as checks; undefined for one that has no equal here. Expected values are runtime ones still. */
export function checksOf(criterion: JsonObject): JsonObject[] | undefined {
	const { condition, context, type } = criterion;
	if (typeof condition !== 'string') return undefined;
	const kind = isObject(type) ? String(type.type) : typeof type === 'string' ? type : 'simple';
	if (kind === 'simple') return simpleChecks(condition.trim());
	const selector = typeof context === 'string' ? selectorOfRuntime(context) : undefined;
	if (kind === 'regex' && context === '$statusCode') {
		const [, digit] = /^\^?([1-5])(?:\\d\\d|\\d\{2\}|\[0-9\]\{2\}|\.\.)\$?$/.exec(condition) ?? [];
		return digit ? [{ status: `${digit}XX` }] : undefined;
	}
	if (kind === 'regex' && selector) return [{ ...placed(selector), matches: condition }];
	if ((kind === 'jsonpath' || kind === 'xpath') && selector === 'body') return [{ body: condition, present: true }];
	return undefined;
}
const placed = (selector: string): JsonObject =>
	selector.startsWith('header:') ? { header: selector.slice(7) } : { body: selector === 'body' ? '$' : selector };

function simpleChecks(condition: string): JsonObject[] | undefined {
	const [, low, high] = /^\$statusCode\s*>=\s*(\d)00\s*&&\s*\$statusCode\s*<=?\s*(\d)(?:00|99)$/.exec(condition) ?? [];
	if (low && high && (Number(high) === Number(low) + 1 || high === low)) return [{ status: `${low}XX` }];
	const either = condition.split(/\s*\|\|\s*/).map((one) => /^\(?\s*\$statusCode\s*==\s*(\d{3})\s*\)?$/.exec(one)?.[1]);
	if (either.every(Boolean)) return [{ status: either.length === 1 ? Number(either[0]) : either.map(Number) }];
	if (!/\|\|/.test(condition) && /&&/.test(condition)) {
		const all = condition.split(/\s*&&\s*/).map(simpleChecks);
		return all.every((one) => one !== undefined) ? all.flat() : undefined;
	}
	const [, left = '', operator = '', right = ''] =
		/^(\$response\.(?:body(?:#\S*)?|header\.[\w-]+))\s*(==|!=|<=|>=|<|>)\s*(.+)$/.exec(condition) ?? [];
	const selector = selectorOfRuntime(left);
	const value = literalOf(right.trim());
	if (!selector || value === undefined) return undefined;
	return [{ ...placed(selector), [OPERATORS[operator]!]: value }];
}
