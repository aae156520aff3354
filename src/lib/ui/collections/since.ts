const UNITS: [ms: number, unit: Intl.RelativeTimeFormatUnit][] = [
	[86_400_000, 'day'],
	[3_600_000, 'hour'],
	[60_000, 'minute']
];

/** How long ago something was, in words. Milliseconds since 1970. */
export function since(at: number, now: number): string {
	const ago = Math.max(0, now - at);
	const [ms, unit] = UNITS.find(([one]) => ago >= one) ?? [0, 'minute'];
	if (ms === 0) return 'just now';
	return new Intl.RelativeTimeFormat('en', { numeric: 'always' }).format(-Math.floor(ago / ms), unit);
}
