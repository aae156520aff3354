/** Where in a request a value is from, as far as its expression tells. */
export type Place = { field: 'target' } | { field: 'headers' | 'body'; name: string };

/** The places of a request that an expression reads. */
export function placesOf(source: string): Place[] {
	const out: Place[] = [];
	if (/\$(path|query)\b|\$request\.(method|url|path)\b/.test(source)) out.push({ field: 'target' });
	for (const [, place, quoted, plain] of source.matchAll(
		/\$request\.(headers|cookies|body)(?:[.\w[\]]*\.)?(?:`([^`]*)`|(\w+))?/g
	))
		out.push({
			field: place === 'body' ? 'body' : 'headers',
			name: place === 'cookies' ? 'cookie' : (quoted ?? plain ?? '')
		});
	return out;
}

/** The line of a field's text in which a name stands, from 0; 0 where it stands nowhere. */
export function lineOf({ field, name }: { field: string; name: string }, text: string): number {
	if (!name) return 0;
	const lines = text.split('\n');
	const at = lines.findIndex((line) =>
		field === 'headers'
			? line.toLowerCase().startsWith(`${name.toLowerCase()}:`)
			: new RegExp(`(^|[^\\w])${name.replace(/[^\w-]/g, '.')}([^\\w]|$)`).test(line)
	);
	return Math.max(0, at);
}
