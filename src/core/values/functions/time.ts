import { lookUp } from '../../model/lookup.ts';
import { parseDuration } from '../../model/units.ts';
import type { ExpressionFunction } from './kind.ts';

const pad = (n: number, width = 2): string => String(n).padStart(width, '0');
const DAY = 86_400_000;
const LONG: Record<string, number> = { h: 3_600_000, d: DAY, w: 7 * DAY };

/** Milliseconds of `+3 d`, `-90 min`, `2 h`. */
function offsetOf(text: unknown): number {
	const match = /^\s*([+-]?)\s*(\d+(?:\.\d+)?)\s*([a-z]+)\s*$/i.exec(String(text));
	const size =
		match &&
		(lookUp(LONG, match[3]!) !== undefined
			? Number(match[2]) * lookUp(LONG, match[3]!)!
			: parseDuration(`${match[2]} ${match[3]}`));
	if (!match || size === undefined || size === null) {
		throw new Error(`"${String(text)}" is not an offset: it should look like "+3 d", "-90 min" or "2 h"`);
	}
	return match[1] === '-' ? -size : size;
}

const DAYS = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'];
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

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
	return pattern.replace(/yyyy|MM|dd|HH|mm|SSS|ss/g, (field) => fields[field]!);
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
		doc: 'The time now in UTC: "iso" (the default), "http" (RFC 9110), or a pattern of yyyy MM dd HH mm ss SSS; moved by an offset such as "+3 d".',
		example: { expression: '$date("yyyy-MM-dd", "+1 d")', matches: /^\d{4}-\d\d-\d\d$/ },
		run(ports, pattern = 'iso', offset) {
			return format(new Date(ports.now() + (offset === undefined ? 0 : offsetOf(offset))), String(pattern));
		}
	}
];
