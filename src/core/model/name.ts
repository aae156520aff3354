/** A name for files and addresses from what people write: `Lock passages` becomes `lock-passages`. Empty where nothing serves. */
export const fileName = (title: string): string =>
	title
		.toLowerCase()
		.normalize('NFKD')
		.replace(/\p{M}/gu, '')
		.replace(/[^a-z0-9]+/g, '-')
		.replace(/^-|-$/g, '');

/** A name by its letters and digits alone: `booking_id` and `bookingId` are the same. */
export const plainName = (name: string): string => name.toLowerCase().replace(/[^a-z0-9]/g, '');

/** One of what a word names several of: `boats`, `ferries`, `boxes`, `addresses`; `status` stays. */
export const singular = (word: string): string =>
	word
		.replace(/ies$/, 'y')
		.replace(/(x|ch|sh|ss)es$/, '$1')
		.replace(/(ss|us)$/, '$1 ')
		.replace(/s$/, '')
		.trim();
