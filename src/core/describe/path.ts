import { singular } from '../model/name.ts';
import { parseTemplate, unescapeAddress } from '../values/index.ts';

/** Where a call went, in parts. */
export interface CallPath {
	/** Origin and the path before the API's own: `https://h.example/v1`. */
	server: string;
	/** Segments: literal text, or a parameter with its name and value. */
	segments: (string | { name: string; value: string })[];
}

/** `{` as no literal text of a path holds it. */
const MARK = '\uE010';

/** The segments of a target as written: literal text, or the name of what is put in there. */
function written(target: string): (string | { name: string })[] {
	const names: string[] = [];
	const mark = (name: string): string => `${MARK}${names.push(name) - 1}${MARK}`;
	let plain = '';
	try {
		for (const part of parseTemplate(target)) plain += 'text' in part ? part.text : mark(nameIn(part.source));
	} catch {
		return [];
	}
	plain = plain.replace(/\{([^{}]+)\}/g, (_, name: string) => mark(name));
	const path = plain.replace(/^[a-z]+:\/\/[^/]*/i, '').split(/[?#]/)[0]!;
	const whole = new RegExp(`^${MARK}(\\d+)${MARK}$`);
	return path
		.split('/')
		.filter((part) => part !== '')
		.map((part) => {
			const [, at] = whole.exec(part) ?? [];
			if (at !== undefined) return { name: names[Number(at)]! };
			// a parameter beside other text in one segment: the whole segment is one
			return part.includes(MARK) ? { name: '' } : unescapeAddress(part);
		});
}

/** What an expression is about: `$steps.book.bookingId` is bookingId. */
const nameIn = (source: string): string => /([A-Za-z_]\w*)\W*$/.exec(source)?.[1] ?? '';

const ID =
	/^\d+$|^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$|^\d{4}-\d\d-\d\d$|^(?=.*\d)[A-Za-z0-9_-]{16,}$/i;
const BASE = /^(\/(api|rest|services?|v\d+))+(?=\/|$)/i;

/** A name for the parameter behind a part of a path: `boats` gives boatId. */
const idName = (before: string): string => {
	const words = singular(before)
		.split(/[^A-Za-z0-9]+/)
		.filter(Boolean)
		.map((word, index) => (index === 0 ? word : word.charAt(0).toUpperCase() + word.slice(1)));
	return words.length > 0 ? `${words.join('')}Id` : 'id';
};

/**
 * Where a call went. What its path was written from says what is a parameter; where that is not known, what looks like an id is.
 * @param target as the step has it: `/boats/{boatId}`; undefined where nobody knows
 */
export function pathOfCall(url: URL, target: string | undefined): CallPath {
	const parts = url.pathname.split('/').filter((part) => part !== '');
	const own = target === undefined ? [] : written(target);
	const start = parts.length - own.length;
	const fits =
		own.length > 0 &&
		start >= 0 &&
		own.every((one, index) => typeof one !== 'string' || one === unescapeAddress(parts[start + index]!));
	const base = fits ? `/${parts.slice(0, start).join('/')}` : (BASE.exec(url.pathname)?.[0] ?? '');
	const rest = fits ? parts.slice(start) : url.pathname.slice(base.length).split('/').filter(Boolean);
	const taken = new Set<string>();
	const segments = rest.map((part, index): CallPath['segments'][number] => {
		const given = fits ? own[index]! : part;
		const value = unescapeAddress(part);
		if (typeof given === 'string' && !ID.test(value)) return value;
		const before = rest.slice(0, index).findLast((one) => !ID.test(one)) ?? '';
		const said = typeof given === 'string' ? '' : given.name.replace(/\W+/g, '_');
		// id alone says little, and stands in several places of one path
		const wanted = said === '' || /^(id|uuid|value)$/i.test(said) ? idName(before) : said;
		let name = wanted;
		for (let n = 2; taken.has(name); n++) name = `${wanted}${n}`;
		taken.add(name);
		return { name, value };
	});
	return { server: url.origin + base.replace(/\/$/, ''), segments };
}

/** The path of an OpenAPI document: `/boats/{boatId}`. */
export const templateOf = ({ segments }: CallPath): string =>
	`/${segments.map((one) => (typeof one === 'string' ? one.replace(/[{}]/g, '') : `{${one.name}}`)).join('/')}`;
/** The same for paths whose parameters have other names. */
export const shapeOf = ({ segments }: CallPath): string =>
	`/${segments.map((one) => (typeof one === 'string' ? one : '{}')).join('/')}`;
