import { lookUp } from '../../model/lookup.ts';
import { parseDuration } from '../../model/units.ts';
import type { ExpressionFunction } from './kind.ts';

const pad = (n: number, width = 2): string => String(n).padStart(width, '0');
const DAY = 86_400_000;
const LONG: Record<string, number> = { h: 3_600_000, d: DAY, w: 7 * DAY };

const IN_MONTHS: Record<string, number> = { month: 1, months: 1, year: 12, years: 12 };

/** A time moved by so many months, to the last day of one that is too short. */
function monthsLater(ms: number, months: number): number {
	const at = new Date(ms);
	const day = at.getUTCDate();
	at.setUTCDate(1);
	at.setUTCMonth(at.getUTCMonth() + months);
	const last = new Date(Date.UTC(at.getUTCFullYear(), at.getUTCMonth() + 1, 0)).getUTCDate();
	return at.setUTCDate(Math.min(day, last));
}

/** A time moved by `+3 d`, `-90 min`, `2 h`, `+1 month`. */
function moved(ms: number, offset: unknown): number {
	const match = /^\s*([+-]?)\s*(\d+(?:\.\d+)?)\s*([a-z]+)\s*$/i.exec(String(offset));
	const [, sign = '', count = '', unit = ''] = match ?? [];
	const factor = sign === '-' ? -1 : 1;
	const months = lookUp(IN_MONTHS, unit);
	if (months !== undefined && /^\d+$/.test(count)) return monthsLater(ms, factor * months * Number(count));
	const long = lookUp(LONG, unit);
	const size = long === undefined ? parseDuration(`${count} ${unit}`) : Number(count) * long;
	if (match && size !== undefined && size !== null) return ms + factor * size;
	throw new Error(`"${String(offset)}" is not an offset: it should look like "+3 d", "-90 min", "2 h" or "+1 month"`);
}

const DAYS = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'];
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/** What may be a field: a letter of such patterns, and the same again. */
const RUNS = /([yMdHhmsSED])\1*/g;

function format(at: Date, pattern: string): string {
	if (pattern === 'iso') return at.toISOString();
	if (pattern === 'http') {
		const date = `${DAYS[at.getUTCDay()]}, ${pad(at.getUTCDate())} ${MONTHS[at.getUTCMonth()]} ${at.getUTCFullYear()}`;
		return `${date} ${pad(at.getUTCHours())}:${pad(at.getUTCMinutes())}:${pad(at.getUTCSeconds())} GMT`;
	}
	const fields: Record<string, string> = {
		yyyy: pad(at.getUTCFullYear(), 4),
		MM: pad(at.getUTCMonth() + 1),
		dd: pad(at.getUTCDate()),
		HH: pad(at.getUTCHours()),
		mm: pad(at.getUTCMinutes()),
		ss: pad(at.getUTCSeconds()),
		SSS: pad(at.getUTCMilliseconds(), 3)
	};
	for (const [run] of pattern.matchAll(RUNS))
		if (!Object.hasOwn(fields, run))
			throw new Error(
				`"${run}" is no field of a time: there are ${Object.keys(fields).join(', ')}; words stand beside $date(…)`
			);
	return pattern.replace(RUNS, (run) => fields[run]!);
}

export const time: ExpressionFunction[] = [
	{
		name: 'epoch',
		takes: ['unit?'],
		doc: 'The time now, in seconds since 1970; with "ms" in milliseconds.',
		example: { expression: '$epoch("ms") - $epoch() * 1000 < 1000', gives: true },
		run: (ports, unit = 's') => (unit === 'ms' ? Math.floor(ports.now()) : Math.floor(ports.now() / 1000))
	},
	{
		name: 'date',
		takes: ['pattern?', 'offset?'],
		doc: 'The time now in UTC: "iso" (the default), "http" (RFC 9110), or a pattern of yyyy MM dd HH mm ss SSS; moved by an offset such as "+3 d" or "-1 month".',
		example: { expression: '$date("yyyy-MM-dd", "+1 d")', matches: /^\d{4}-\d\d-\d\d$/ },
		run(ports, pattern = 'iso', offset) {
			const now = ports.now();
			return format(new Date(offset === undefined ? now : moved(now, offset)), String(pattern));
		}
	}
];
