/** A number for each object, so that what was looked at can be told from what is another one by now. */
const createIds = (): ((object: object) => number) => {
	const ids = new WeakMap<object, number>();
	let last = 0;
	return (object) => {
		let id = ids.get(object);
		if (id === undefined) ids.set(object, (id = ++last));
		return id;
	};
};
/** The number of an object: the same as long as the program runs. */
export const idOf = createIds();
