import { HeronError } from '#core/errors.ts';
import { parseDuration } from '#core/model/units.ts';
import { one, type Flags } from './command.ts';

/** A duration in milliseconds. @throws HeronError usage.* */
export function durationOf(flags: Flags, name: string): number | undefined {
	const text = one(flags, name);
	if (text === undefined) return undefined;
	const ms = parseDuration(text);
	if (ms === undefined)
		throw new HeronError('usage.option', { option: name, wanted: 'a duration such as "30 s" or "10min"', given: text });
	return ms;
}

/** A whole number. @throws HeronError usage.* */
export function numberOf(flags: Flags, name: string, least: number): number | undefined {
	const text = one(flags, name);
	if (text === undefined) return undefined;
	const n = Number(text);
	if (!Number.isInteger(n) || n < least)
		throw new HeronError('usage.option', { option: name, wanted: `a whole number from ${least}`, given: text });
	return n;
}
