/** What a value of a simple type may be (XSD 1.0 part 2, section 4.3). */
export interface Facets {
	enumeration?: string[];
	/** Of each inner list one must match; all outer ones must. */
	patterns?: string[][];
	length?: number;
	minLength?: number;
	maxLength?: number;
	minInclusive?: string;
	maxInclusive?: string;
	minExclusive?: string;
	maxExclusive?: string;
	totalDigits?: number;
	fractionDigits?: number;
}

type Primitive = 'text' | 'number' | 'boolean' | 'date' | 'duration' | 'bytes' | 'name';

/** A built-in type of XSD 1.0 part 2 section 3. */
export interface Builtin {
	primitive: Primitive;
	facets: Facets;
	/** What its texts look like. */
	form: RegExp;
	/** A value that fits. */
	sample: string;
	/** What is wanted, in words. */
	wanted: string;
	/** Spaces are kept as they are, or each line end and tab is one (whiteSpace, section 4.3.6); else they are put together. */
	space?: 'kept' | 'replaced';
}

const ZONE = '(Z|[+-](?:0\\d|1[0-3]):[0-5]\\d|[+-]14:00)?';
const DAY = '(?:0[1-9]|[12]\\d|3[01])';
const MONTH = '(?:0[1-9]|1[0-2])';
const YEAR = '-?(?:[1-9]\\d{3,}|0\\d{3})';
const TIME = '(?:(?:[01]\\d|2[0-3]):[0-5]\\d:[0-5]\\d(?:\\.\\d+)?|24:00:00(?:\\.0+)?)';
const whole = (source: string) => new RegExp(`^(?:${source})$`);

const INTEGER = whole('[+-]?\\d+');
const integer = (min?: string, max?: string): Builtin => ({
	primitive: 'number',
	facets: { ...(min ? { minInclusive: min } : {}), ...(max ? { maxInclusive: max } : {}), fractionDigits: 0 },
	form: INTEGER,
	sample: min && !min.startsWith('-') ? min : max?.startsWith('-') ? max : '0',
	wanted: 'a whole number'
});
const date = (source: string, sample: string, wanted: string): Builtin => ({
	primitive: 'date',
	facets: {},
	form: whole(source),
	sample,
	wanted
});
const text = (form: RegExp, sample: string, wanted: string, space?: Builtin['space']): Builtin => ({
	primitive: 'text',
	facets: {},
	form,
	sample,
	wanted,
	...(space ? { space } : {})
});
const name = (form: RegExp, sample: string): Builtin => ({ ...text(form, sample, 'a name'), primitive: 'name' });
const float = (): Builtin => ({
	primitive: 'number',
	facets: {},
	form: whole('[+-]?(?:\\d+(?:\\.\\d*)?|\\.\\d+)(?:[eE][+-]?\\d+)?|-?INF|NaN'),
	sample: '0',
	wanted: 'a number'
});

const NCNAME = '[\\p{L}_][\\p{L}\\p{N}\\p{M}._\\-\\u00B7]*';
const ANY = /^[\s\S]*$/;

/** The built-in types (XSD 1.0 part 2, section 3). */
export const BUILTINS: Readonly<Record<string, Builtin>> = {
	anySimpleType: text(ANY, 'text', 'a text', 'kept'),
	anyURI: text(ANY, 'urn:example', 'an address'),
	string: text(ANY, 'text', 'a text', 'kept'),
	normalizedString: text(ANY, 'text', 'a text', 'replaced'),
	token: text(ANY, 'text', 'a text'),
	language: text(whole('[A-Za-z]{1,8}(-[A-Za-z0-9]{1,8})*'), 'en', 'a language such as en-GB'),
	Name: name(/^[\p{L}_:][\p{L}\p{N}\p{M}._\-:\u00B7]*$/u, 'name'),
	NCName: name(new RegExp(`^${NCNAME}$`, 'u'), 'name'),
	ID: name(new RegExp(`^${NCNAME}$`, 'u'), 'id-1'),
	IDREF: name(new RegExp(`^${NCNAME}$`, 'u'), 'id-1'),
	IDREFS: text(ANY, 'id-1', 'names'),
	ENTITY: name(new RegExp(`^${NCNAME}$`, 'u'), 'name'),
	ENTITIES: text(ANY, 'name', 'names'),
	NMTOKEN: name(/^[\p{L}\p{N}\p{M}._\-:\u00B7]+$/u, 'token'),
	NMTOKENS: text(/\S/, 'token', 'words'),
	QName: name(new RegExp(`^(${NCNAME}:)?${NCNAME}$`, 'u'), 'name'),
	NOTATION: name(new RegExp(`^(${NCNAME}:)?${NCNAME}$`, 'u'), 'name'),
	boolean: { primitive: 'boolean', facets: {}, form: whole('true|false|1|0'), sample: 'true', wanted: 'true or false' },
	decimal: {
		primitive: 'number',
		facets: {},
		form: whole('[+-]?(?:\\d+(?:\\.\\d*)?|\\.\\d+)'),
		sample: '0',
		wanted: 'a number without exponent'
	},
	float: float(),
	double: float(),
	integer: integer(),
	nonPositiveInteger: integer(undefined, '0'),
	negativeInteger: integer(undefined, '-1'),
	nonNegativeInteger: integer('0'),
	positiveInteger: integer('1'),
	long: integer('-9223372036854775808', '9223372036854775807'),
	int: integer('-2147483648', '2147483647'),
	short: integer('-32768', '32767'),
	byte: integer('-128', '127'),
	unsignedLong: integer('0', '18446744073709551615'),
	unsignedInt: integer('0', '4294967295'),
	unsignedShort: integer('0', '65535'),
	unsignedByte: integer('0', '255'),
	dateTime: date(
		`${YEAR}-${MONTH}-${DAY}T${TIME}${ZONE}`,
		'2027-05-03T09:30:00Z',
		'a date and time such as 2027-05-03T09:30:00Z'
	),
	date: date(`${YEAR}-${MONTH}-${DAY}${ZONE}`, '2027-05-03', 'a date such as 2027-05-03'),
	time: date(`${TIME}${ZONE}`, '09:30:00', 'a time such as 09:30:00'),
	gYear: date(`${YEAR}${ZONE}`, '2027', 'a year such as 2027'),
	gYearMonth: date(`${YEAR}-${MONTH}${ZONE}`, '2027-05', 'a month such as 2027-05'),
	gMonth: date(`--${MONTH}${ZONE}`, '--05', 'a month such as --05'),
	gDay: date(`---${DAY}${ZONE}`, '---03', 'a day such as ---03'),
	gMonthDay: date(`--${MONTH}-${DAY}${ZONE}`, '--05-03', 'a day such as --05-03'),
	duration: {
		primitive: 'duration',
		facets: {},
		form: /^-?P(?=\d|T\d)(\d+Y)?(\d+M)?(\d+D)?(T(?=\d)(\d+H)?(\d+M)?(\d+(\.\d+)?S)?)?$/,
		sample: 'P1D',
		wanted: 'a duration such as P1DT2H'
	},
	base64Binary: {
		primitive: 'bytes',
		facets: {},
		form: /^(?:(?:[A-Za-z0-9+/] ?){4})*(?:(?:[A-Za-z0-9+/] ?)[AQgw] ?= ?=|(?:[A-Za-z0-9+/] ?){2}[AEIMQUYcgkosw048] ?=)? ?$/,
		sample: 'UmVlZG1lcmU=',
		wanted: 'Base64'
	},
	hexBinary: {
		primitive: 'bytes',
		facets: {},
		form: /^([0-9a-fA-F]{2})*$/,
		sample: '0FB7',
		wanted: 'pairs of hexadecimal digits'
	}
};
