import type { Problem } from '#core/errors.ts';

const placed = ({ line, message }: Problem): string => `${line} ${message}`;

/** Problems that are not among those that are told already. */
export function untold<T extends Problem>(some: readonly T[], told: readonly Problem[]): T[] {
	const known = new Set(told.map(placed));
	return some.filter((one) => !known.has(placed(one)));
}
