export { freeName, getIn, setIn, type Path } from '#core/model/path.ts';

/** A copy of a list with an item moved. */
export function moved<T>(list: readonly T[], from: number, to: number): T[] {
	const copy = [...list];
	copy.splice(to, 0, ...copy.splice(from, 1));
	return copy;
}
