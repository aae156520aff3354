/** A query with one of its values changed; an empty one is left out, and so is the page that it is at. */
export function withValue(asked: string, key: string, value: string): string {
	const query = new URLSearchParams(asked);
	query.delete('before');
	query.delete(key);
	if (value) query.set(key, value);
	return `?${query.toString()}`;
}
