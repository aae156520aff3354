import { lookUp } from './lookup.ts';

const DURATION = { ms: 1, s: 1000, min: 60_000, h: 3_600_000, d: 86_400_000 } as const;
const SIZE = { B: 1, kB: 1000, MB: 1_000_000 } as const;

function parse(text: unknown, units: Record<string, number>): number | undefined {
	const match = /^\s*(\d+(?:\.\d+)?)\s*([A-Za-z]+)\s*$/.exec(String(text));
	const factor = match && lookUp(units, match[2]!);
	return factor ? Number(match[1]) * factor : undefined;
}

/** Milliseconds of `800 ms`, `5 s`, `2 min`, `3 h`, `30 d`; undefined when it is not a duration. */
export const parseDuration = (text: unknown): number | undefined => parse(text, DURATION);

/** Bytes of `300 B`, `20 kB`, `5 MB` (powers of ten); undefined when it is not a size. */
export const parseSize = (text: unknown): number | undefined => parse(text, SIZE);

/** A duration for people: `84 ms`, `1.2 s`, `2 min 5 s`. */
export function showDuration(ms: number): string {
	if (ms < 1) return ms > 0 ? '<1 ms' : '0 ms';
	if (ms < 1000) return `${Math.round(ms)} ms`;
	if (ms < 60_000) return `${(ms / 1000).toFixed(ms < 10_000 ? 1 : 0).replace(/\.0$/, '')} s`;
	const seconds = Math.round((ms % 60_000) / 1000);
	return `${Math.floor(ms / 60_000)} min${seconds ? ` ${seconds} s` : ''}`;
}

/** A size for people: `312 B`, `4.8 kB`, `20 MB`. */
export function showSize(bytes: number): string {
	const short = (n: number) => (n < 10 ? n.toFixed(1).replace(/\.0$/, '') : String(Math.round(n)));
	if (bytes < 1000) return `${bytes} B`;
	if (bytes < 1_000_000) return `${short(bytes / 1000)} kB`;
	return `${short(bytes / 1_000_000)} MB`;
}
