// Values of simple types, put in order (XSD 1.0 part 2 sections 3.2 and 4.3): what texts mean, and not how they are written.

/** A decimal number as a whole one and the digits behind its point: nothing is rounded. */
interface Decimal {
	digits: bigint;
	scale: number;
}
function decimalOf(text: string): Decimal | undefined {
	const [, sign = '', whole = '', fraction = ''] = /^([+-]?)(\d*)\.?(\d*)$/.exec(text) ?? [];
	if (whole + fraction === '') return undefined;
	return { digits: BigInt(`${sign === '-' ? '-' : ''}${whole || '0'}${fraction}`), scale: fraction.length };
}
function compareDecimals(a: Decimal, b: Decimal): number {
	const scale = Math.max(a.scale, b.scale);
	const [x, y] = [a, b].map((one) => one.digits * 10n ** BigInt(scale - one.scale)) as [bigint, bigint];
	return x < y ? -1 : x > y ? 1 : 0;
}

/** A number with an exponent, or a special one; INF is the largest, and NaN is like nothing but itself. */
const floatOf = (text: string): number =>
	text === 'INF' ? Infinity : text === '-INF' ? -Infinity : text === 'NaN' ? Number.NaN : Number(text);

/** A moment: days since the year 0, milliseconds of the day in UTC, and whether its zone is known. */
interface Moment {
	days: number;
	ms: number;
	zoned: boolean;
}
const DAY_MS = 86_400_000;
/** The furthest that a zone is away, in milliseconds. */
const FURTHEST = 14 * 3_600_000;

/** Days since 0000-03-01 of the proleptic Gregorian calendar. */
function daysOf(year: number, month: number, day: number): number {
	const y = month <= 2 ? year - 1 : year;
	const shifted = (month + 9) % 12;
	return (
		365 * y +
		Math.floor(y / 4) -
		Math.floor(y / 100) +
		Math.floor(y / 400) +
		Math.floor((153 * shifted + 2) / 5) +
		day -
		1
	);
}

const MOMENT =
	/^(?:(-?\d{4,})(?:-(\d\d)(?:-(\d\d))?)?|--(\d\d)(?:-(\d\d))?|---(\d\d)|(?=\d\d:))?T?(?:(\d\d):(\d\d):(\d\d(?:\.\d+)?))?(Z|[+-]\d\d:\d\d)?$/;

/** A date, time, or part of a date; what is not said is that of 2000-01-01T00:00:00. */
function momentOf(text: string): Moment | undefined {
	const found = MOMENT.exec(text);
	if (!found || text === '') return undefined;
	const [, year, month, day, ofMonth, ofDay, dayAlone, hours = '0', minutes = '0', seconds = '0', zone] = found;
	const offset =
		!zone || zone === 'Z'
			? 0
			: (zone.startsWith('-') ? -1 : 1) * (Number(zone.slice(1, 3)) * 60 + Number(zone.slice(4)));
	const ms = (Number(hours) * 60 + Number(minutes) - offset) * 60_000 + Math.round(Number(seconds) * 1e6) / 1000;
	const days = daysOf(Number(year ?? 2000), Number(month ?? ofMonth ?? 1), Number(day ?? ofDay ?? dayAlone ?? 1));
	const carry = Math.floor(ms / DAY_MS);
	return { days: days + carry, ms: ms - carry * DAY_MS, zoned: zone !== undefined };
}
const orderOf = (a: number, b: number): number => (a < b ? -1 : a > b ? 1 : 0);
const sortOut = (a: Moment, b: Moment, shift = 0): number => {
	const total = (one: Moment, by: number) => one.ms + by + (one.days - b.days) * DAY_MS;
	return orderOf(total(a, shift), total(b, 0));
};
/** Section 3.2.7.4: a moment without a zone may be anywhere between 14 hours before and after. */
function compareMoments(a: Moment, b: Moment): number | undefined {
	if (a.zoned === b.zoned) return sortOut(a, b);
	const sign = a.zoned ? 1 : -1;
	const [early, late] = [sortOut(a, b, -FURTHEST * sign), sortOut(a, b, FURTHEST * sign)];
	return early === late ? early : undefined;
}

interface Duration {
	months: number;
	seconds: number;
}
function durationOf(text: string): Duration | undefined {
	const found = /^(-?)P(?:(\d+)Y)?(?:(\d+)M)?(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?(?:(\d+(?:\.\d+)?)S)?)?$/.exec(text);
	if (!found) return undefined;
	const [, sign, ...parts] = found;
	const [years, months, days, hours, minutes, seconds] = parts.map((part) => Number(part ?? 0)) as [
		...[number, number, number],
		...[number, number, number]
	];
	const by = sign ? -1 : 1;
	return { months: by * (years * 12 + months), seconds: by * (((days * 24 + hours) * 60 + minutes) * 60 + seconds) };
}
/** The moments that durations are added to, so that they can be put in order (section 3.2.6.2). */
const STARTS = [
	[1696, 9],
	[1697, 2],
	[1903, 3],
	[1903, 7]
] as const;
function compareDurations(a: Duration, b: Duration): number | undefined {
	const orders = STARTS.map(([year, month]) => {
		const at = ({ months, seconds }: Duration) => {
			const total = year * 12 + (month - 1) + months;
			return daysOf(Math.floor(total / 12), (((total % 12) + 12) % 12) + 1, 1) * 86_400 + seconds;
		};
		return orderOf(at(a), at(b));
	});
	return orders.every((one) => one === orders[0]) ? orders[0] : undefined;
}

/** How texts of a built-in type are put in order: -1, 0 or 1; undefined when they cannot be. */
export function compareValues(builtin: string, a: string, b: string): number | undefined {
	if (builtin === 'float' || builtin === 'double') {
		const [x, y] = [floatOf(a), floatOf(b)];
		if (Number.isNaN(x) || Number.isNaN(y)) return Number.isNaN(x) && Number.isNaN(y) ? 0 : undefined;
		return builtin === 'float' ? orderOf(Math.fround(x), Math.fround(y)) : orderOf(x, y);
	}
	if (builtin === 'duration') {
		const [x, y] = [durationOf(a), durationOf(b)];
		return x && y && compareDurations(x, y);
	}
	const [x, y] = [decimalOf(a), decimalOf(b)];
	if (x && y) return compareDecimals(x, y);
	const [one, other] = [momentOf(a), momentOf(b)];
	return one && other && compareMoments(one, other);
}

const TRUE = new Set(['true', '1']);
/** Whether two texts of a built-in type mean the same value. */
export function sameValue(builtin: string, primitive: string, a: string, b: string): boolean {
	if (a === b) return true;
	switch (primitive) {
		case 'boolean':
			return TRUE.has(a) === TRUE.has(b);
		case 'bytes':
			return builtin === 'hexBinary'
				? a.toLowerCase() === b.toLowerCase()
				: a.replace(/\s/g, '') === b.replace(/\s/g, '');
		case 'number':
		case 'date':
		case 'duration':
			return compareValues(builtin, a, b) === 0;
		default:
			return false;
	}
}
