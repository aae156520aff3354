import * as yup from 'yup';
import { didYouMean } from '../messages.ts';
import { isObject, writeJson, type Json } from './json.ts';
import { parseDuration } from './units.ts';

/** A way to report what is wrong at a path below the value that is looked at. */
export type Report = (at: (string | number)[], message: string) => void;

/** Yup joins paths into text; ours are kept whole in the error's type, so that any key survives. */
const errorAt = (base: string, at: (string | number)[], message: string): yup.ValidationError =>
	new yup.ValidationError(message, undefined, base, writeJson(at), true);

/** What a Yup test gives back. Nobody reads the stack of such an error, and taking it is most of the time. */
const verdictOf = (errors: yup.ValidationError[]): true =>
	errors.length === 0 || (new yup.ValidationError(errors, undefined, undefined, undefined, true) as never);

/** Something that is wrong in a value, at a place under it. */
export interface Found {
	path: (string | number)[];
	message: string;
}

/** A Yup schema with the JSON Schema of the same thing. */
export function shaped(schema: Json, check: (value: unknown, report: Report) => void) {
	return yup
		.mixed()
		.nullable()
		.meta({ schema, check } as never)
		.test('shape', '', (value, context) => {
			if (value === undefined) return true;
			const errors: yup.ValidationError[] = [];
			check(value, (at, message) => errors.push(errorAt(context.path, at, message)));
			return verdictOf(errors);
		});
}

/** The shape of a text. @param doc for the schema and the manual */
export const text = (doc: string, hint = 'a text is wanted') =>
	shaped({ type: 'string', description: doc }, (value, report) => {
		if (typeof value !== 'string') report([], hint);
	});

/** A whole address, unless it is computed. */
export const address = (doc: string, hint: string, fits = isHttp) =>
	shaped({ type: 'string', description: doc }, (value, report) => {
		if (typeof value !== 'string' || (!value.includes('{$') && !fits(value.trim()))) report([], hint);
	});
/** Whether a text is an address of HTTP. */
export const isHttp = (text: string): boolean => /^https?:\/\//i.test(text) && URL.canParse(text);

/** The shape of true or false. */
export const flag = (doc: string) =>
	shaped({ type: 'boolean', description: doc }, (value, report) => {
		if (typeof value !== 'boolean') report([], 'true or false is wanted');
	});

/** The shape of a whole number. */
export const whole = (doc: string, least = 0, most = Number.MAX_SAFE_INTEGER) =>
	shaped({ type: 'integer', minimum: least, maximum: most, description: doc }, (value, report) => {
		if (!Number.isInteger(value) || (value as number) < least || (value as number) > most) {
			report([], `a whole number from ${least} to ${most} is wanted`);
		}
	});

/** A number, which need not be a whole one. */
export const within = (doc: string, least: number, most: number) =>
	shaped({ type: 'number', minimum: least, maximum: most, description: doc }, (value, report) => {
		if (typeof value !== 'number' || !(value >= least && value <= most))
			report([], `a number from ${least} to ${most} is wanted`);
	});

/** A day as RFC 3339 writes it (full-date). */
export const day = (doc: string) =>
	shaped({ type: 'string', format: 'date', description: doc }, (value, report) => {
		if (!isDay(value)) report([], 'a day is wanted, such as 2027-03-31');
	});
/** Whether a value is a day of the calendar, as YYYY-MM-DD. */
export const isDay = (value: unknown): value is string =>
	typeof value === 'string' &&
	/^\d{4}-\d{2}-\d{2}$/.test(value) &&
	new Date(`${value}T00:00:00Z`).toISOString().startsWith(value);

/** The shape of a duration such as `500 ms`. */
export const duration = (doc: string) =>
	shaped({ type: 'string', description: doc, pattern: '^\\s*\\d+(\\.\\d+)?\\s*(ms|s|min)\\s*$' }, (value, report) => {
		if (parseDuration(value) === undefined) report([], 'a duration is wanted, such as 500 ms, 2 s or 1 min');
	});

/** One of a few words; numbers may stand without quotes in the file. */
export const choice = (words: readonly string[], doc: string) =>
	shaped(
		{
			enum: words.flatMap((word) => (/^\d+(\.\d*[1-9])?$/.test(word) ? [word, Number(word)] : [word])),
			description: doc
		},
		(value, report) => {
			// 1.0 without quotes is the number 1
			const given = value === 1 && words.includes('1.0') ? '1.0' : String(value);
			if (!words.includes(given))
				report([], `one of ${words.join(', ')} is wanted${didYouMean(given, [...words]).replace(/^; known.*/, '')}`);
		}
	);

/** A setting that may also be computed: text with an expression is let through. */
export const open = (schema: yup.AnySchema) =>
	shaped({ anyOf: [jsonSchemaOf(schema), { type: 'string', pattern: '\\{\\$' }] }, (value, report) => {
		if (typeof value === 'string' && value.includes('{$')) return;
		for (const { path, message } of findProblems(schema, value)) report(path, message);
	});

/** The shape of a list of names. */
export const names = (doc: string) =>
	shaped({ type: 'array', items: { type: 'string' }, description: doc }, (value, report) => {
		if (!Array.isArray(value)) return report([], 'a list of names is wanted');
		value.forEach((name, index) => {
			if (typeof name !== 'string') report([index], 'a name is wanted');
		});
	});

/** Any plain data under free names, such as variables. */
export const mapOf = (doc: string, pattern?: RegExp) =>
	shaped({ type: 'object', description: doc }, (value, report) => {
		if (!isObject(value)) return report([], 'names with values are wanted');
		for (const name of Object.keys(value)) {
			if (pattern && !pattern.test(name)) report([name], `"${name}" cannot be a name: letters, digits and _ can`);
		}
	});

/** Free names with plain data under free names of their own. */
export const maps = (doc: string, pattern: RegExp) =>
	shaped({ type: 'object', description: doc }, (value, report) => {
		if (!isObject(value)) return report([], 'names with values under them are wanted');
		for (const [key, values] of Object.entries(value)) {
			if (!isObject(values)) report([key], 'names with values are wanted');
			else
				for (const name of Object.keys(values))
					if (!pattern.test(name)) report([key, name], `"${name}" cannot be a name: letters, digits and _ can`);
		}
	});

/** `heron: 1`, the version of the format. */
export const version = shaped({ const: 1, description: 'The version of the format.' }, (value, report) => {
	if (value === 1) return;
	const shown = typeof value === 'number' && Number.isFinite(value) ? String(value) : '';
	report(
		[],
		shown
			? `format version ${shown} is not known: this program reads version 1`
			: 'heron: 1 is wanted here, the version of the format'
	);
});

type Fields = Record<string, yup.AnySchema>;

const KEYS_WANTED = 'keys with values are wanted';
/** So many of them are named. */
const KEYS_NAMED = 4;

/** What else people call keys. */
export type OtherWords = Readonly<Record<string, readonly string[]>>;

/** What is said of a key that nobody knows, with the one that may be meant. */
export function unknownKey(key: string, known: readonly string[], otherWords: OtherWords = {}): string {
	const meant = known.find((name) => Object.hasOwn(otherWords, name) && otherWords[name]!.includes(key));
	return `unknown key "${key}"${didYouMean(meant ?? key, known)}`;
}

/**
 * An object with known keys; unknown ones are reported with the nearest known one.
 * @param otherWords what else people call some of the keys
 */
export function record(
	fields: Fields,
	required: Record<string, string> = {},
	also?: (value: Record<string, unknown>, report: Report) => void,
	otherWords: OtherWords = {}
) {
	const known = Object.keys(fields);
	const check = (value: Record<string, unknown>, report: Report): void => {
		for (const key of Object.keys(value)) {
			if (!known.includes(key)) report([key], unknownKey(key, known, otherWords));
		}
		for (const [key, hint] of Object.entries(required)) {
			if (!Object.hasOwn(value, key)) report([], `${key} is missing${hint && `: ${hint}`}`);
		}
		also?.(value, report);
	};
	return yup
		.object(fields)
		.typeError(
			`${KEYS_WANTED}, such as ${known
				.filter((key) => key !== 'heron')
				.slice(0, KEYS_NAMED)
				.join(', ')}`
		)
		.default(undefined)
		.meta({ required: Object.keys(required), check } as never)
		.test('keys', '', (value: unknown, context) => {
			if (value === undefined || value === null) return true;
			const errors: yup.ValidationError[] = [];
			const report: Report = (at, message) => errors.push(errorAt(context.path, at, message));
			check(value as Record<string, unknown>, report);
			return verdictOf(errors);
		});
}

/** The shape of a list whose items have one shape. */
export const listOf = (item: yup.AnySchema, doc: string) => yup.array(item).meta({ doc } as never);

/**
 * Whether a value is certainly right: the same checks, without the bookkeeping that tells where something is wrong. Most
 * files are right, and reading many of them takes a third of the time (docs/performance.md).
 */
function isRight(schema: yup.AnySchema, value: unknown): boolean {
	const { check } = (schema.spec.meta ?? {}) as { check?: (value: unknown, report: Report) => void };
	if (value === undefined) return schema.spec.optional;
	if (schema instanceof yup.ObjectSchema) {
		if (!isObject(value) || !check) return false;
		const fields = schema.fields as Fields;
		for (const key of Object.keys(value))
			if (!Object.hasOwn(fields, key) || !isRight(fields[key]!, (value as Record<string, unknown>)[key])) return false;
	} else if (schema instanceof yup.ArraySchema) {
		const inner = schema.innerType as yup.AnySchema;
		return Array.isArray(value) && value.every((item) => item !== undefined && isRight(inner, item));
	} else if (!check) return false;
	let right = true;
	check(value, () => (right = false));
	return right;
}

/** Everything that is wrong with a value, with the path to each place; of more than a hundred thousand the first alone. */
export function findProblems(schema: yup.AnySchema, value: unknown): Found[] {
	if (isRight(schema, value)) return [];
	try {
		return validate(schema, value, false);
	} catch (error) {
		// yup hands on errors as arguments, of which a call takes only so many
		if (!(error instanceof RangeError)) throw error;
		const [first] = validate(schema, value, true);
		return first ? [{ ...first, message: `${first.message}; more is wrong than can be listed` }] : [];
	}
}

function validate(schema: yup.AnySchema, value: unknown, abortEarly: boolean): Found[] {
	try {
		schema.validateSync(value, { strict: true, abortEarly, disableStackTrace: true });
		return [];
	} catch (error) {
		if (!(error instanceof yup.ValidationError)) throw error;
		const leaves = error.inner.length > 0 ? error.inner : [error];
		return leaves.map((leaf) => ({
			path: [...splitPath(leaf.path ?? ''), ...(leaf.type?.startsWith('[') ? (JSON.parse(leaf.type) as string[]) : [])],
			message: leaf.type?.startsWith('[') ? leaf.message : wording(leaf)
		}));
	}
}

function wording(error: yup.ValidationError): string {
	if (error.message.startsWith(KEYS_WANTED)) return error.message;
	if (error.type === 'typeError' || error.type === 'optionality' || error.type === 'nullable') {
		const wanted = String((error.params as { type?: string } | undefined)?.type ?? 'value');
		return wanted === 'array'
			? 'a list is wanted: entries with a dash before them'
			: wanted === 'object'
				? KEYS_WANTED
				: `a ${wanted} is wanted`;
	}
	return error.message;
}

function splitPath(path: string): (string | number)[] {
	const parts: (string | number)[] = [];
	for (const match of path.matchAll(/\["((?:[^"\\]|\\.)*)"\]|\[(\d+)\]|([^.[\]]+)/g)) {
		parts.push(match[2] !== undefined ? Number(match[2]) : (match[1] ?? match[3] ?? ''));
	}
	return parts;
}

/** The JSON Schema (2020-12) of a Yup schema made here. */
export function jsonSchemaOf(schema: yup.AnySchema): Json {
	const meta = (schema.spec.meta ?? {}) as { schema?: Json; required?: string[]; doc?: string };
	if (meta.schema) return meta.schema;
	if (schema instanceof yup.ArraySchema) {
		return {
			type: 'array',
			items: jsonSchemaOf(schema.innerType as yup.AnySchema),
			...(meta.doc ? { description: meta.doc } : {})
		};
	}
	if (schema instanceof yup.ObjectSchema) {
		const fields = schema.fields as Fields;
		return {
			type: 'object',
			properties: Object.fromEntries(Object.entries(fields).map(([key, field]) => [key, jsonSchemaOf(field)])),
			required: meta.required ?? [],
			additionalProperties: false
		};
	}
	return {};
}
