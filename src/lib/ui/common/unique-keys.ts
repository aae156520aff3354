/** Keys of items, each once: of two that are the same the second is told apart, as two steps of one id have to be. */
export function uniqueKeys<T>(
	items: readonly T[],
	keyOf: (item: T, index: number) => string | number
): (string | number)[] {
	const times = new Map<string | number, number>();
	return items.map((item, index) => {
		const key = keyOf(item, index);
		const before = times.get(key) ?? 0;
		times.set(key, before + 1);
		return before === 0 ? key : `${key} again ${before}`;
	});
}
