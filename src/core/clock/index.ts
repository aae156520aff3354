import { Cron } from 'croner';

// When something is due by the clock: five fields as a crontab has them (POSIX.1-2024, crontab), in a time zone.

/** Farther ahead and back nobody looks. */
const LOOKED = 1000;

const cronOf = (pattern: string, zone: string): Cron => new Cron(pattern, { timezone: zone, paused: true });

/** What is wrong with a time by the clock; undefined when nothing is. @param from milliseconds since 1970 */
export function clockProblem(pattern: string, zone: string, from: number): string | undefined {
	const fields = pattern.trim().split(/\s+/);
	if (fields.length !== 5 || pattern.trim() === '')
		return 'five fields are wanted: minute, hour, day of the month, month, day of the week, such as 0 4 * * 1-5';
	if (!isZone(zone)) return `there is no time zone "${zone}": Europe/Amsterdam and UTC are some`;
	try {
		if (!cronOf(pattern.trim(), zone).nextRun(new Date(from))) return 'this time never comes';
	} catch (error) {
		return `this is no time by the clock: ${(error as Error).message.replace(/^\w+: /, '')}`;
	}
	return undefined;
}

function isZone(zone: string): boolean {
	try {
		return zone !== '' && new Intl.DateTimeFormat('en', { timeZone: zone }).resolvedOptions().timeZone !== '';
	} catch {
		return false;
	}
}

/** The next times after a moment, in milliseconds since 1970. */
export const nextTimes = (pattern: string, zone: string, after: number, count: number): number[] =>
	cronOf(pattern, zone)
		.nextRuns(count, new Date(after))
		.map((date) => date.getTime());

/** The times after one moment and up to another, the earliest first; of very many the first ones. */
export function timesBetween(pattern: string, zone: string, after: number, upTo: number): number[] {
	const cron = cronOf(pattern, zone);
	const out: number[] = [];
	for (let next = cron.nextRun(new Date(after)); next && next.getTime() <= upTo; next = cron.nextRun(next)) {
		out.push(next.getTime());
		if (out.length >= LOOKED) break;
	}
	return out;
}
