/** A name for files and addresses from what people write: `Lock passages` becomes `lock-passages`. Empty where nothing serves. */
export const fileName = (title: string): string =>
	title
		.toLowerCase()
		.normalize('NFKD')
		.replace(/\p{M}/gu, '')
		.replace(/[^a-z0-9]+/g, '-')
		.replace(/^-|-$/g, '');
