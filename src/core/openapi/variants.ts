import { headerValues, type HeaderList } from '../model/reply.ts';
import { decodeForm } from '../values/index.ts';

/** What of a call, beside its path, may tell which operation is meant. */
export interface Carried {
	/** What stands behind `#` in the address of its step. */
	fragment: string;
	/**
	 * Values of a name in its query or its headers; undefined where it has none, and in the list for one that is only
	 * known when it is sent.
	 */
	values(name: string): readonly (string | undefined)[] | undefined;
}

/**
 * The path of a template without the query or fragment that some documents write behind it, so that a path has several
 * operations of one method: `/pets?kind=cat`, `/tags/{id}#tagKeys`, `/#X-Action=List`.
 */
export const routeOf = (template: string): string => /^[^?#]*/.exec(template)![0];

/** The names, with values where they have some, that a template writes behind its path. */
const marksOf = (template: string): [name: string, value: string | undefined][] =>
	template
		.slice(routeOf(template).length)
		.split(/[?#&]/)
		.filter(Boolean)
		.map((mark) => {
			const [name = '', ...value] = mark.split('=');
			const text = value.join('=');
			return [name, text === '' || text.includes('{') ? undefined : text];
		});

/** What stands behind `#` in a template or an address; empty without one. */
export const fragmentOf = (address: string): string => /#(.*)$/s.exec(address)?.[1] ?? '';

/** What a request tells: its search with the `?`, its headers, and the fragment of the step that made it. */
export function carriedBy(search: string, headers: HeaderList, fragment = ''): Carried {
	let pairs: [string, string][] | undefined;
	return {
		fragment,
		values(name) {
			pairs ??= decodeForm(search.slice(1));
			const found = [...headerValues(headers, name), ...pairs.flatMap(([own, value]) => (own === name ? [value] : []))];
			return found.length > 0 ? found : undefined;
		}
	};
}

/** Of operations that have one method and path, the one whose query and fragment fit a call best; else the first. */
export function variantOf<Operation extends { template: string }>(
	operations: readonly Operation[],
	carried: Carried | undefined
): Operation | undefined {
	const [first] = operations;
	if (!first || operations.length === 1 || !carried) return first;
	const route = routeOf(first.template);
	const ranked = operations
		.filter(({ template }) => routeOf(template) === route)
		.map((operation) => {
			const named = carried.fragment !== '' && fragmentOf(operation.template) === carried.fragment;
			const marks = marksOf(operation.template);
			const held = marks.filter(([name, value]) => {
				const values = carried.values(name);
				return values?.some((one) => one === undefined || value === undefined || one === value);
			}).length;
			return { operation, missing: named ? 0 : marks.length - held, held: named ? Infinity : held };
		});
	return ranked.sort((a, b) => a.missing - b.missing || (a.held === b.held ? 0 : b.held - a.held))[0]!.operation;
}
