/** `RecordPassage` as an id: record-passage. */
export const idOf = (name: string): string =>
	name
		.replace(/([a-z\d])([A-Z])/g, '$1-$2')
		.replace(/([A-Z]+)([A-Z][a-z])/g, '$1-$2')
		.toLowerCase()
		.replace(/[^a-z\d_.-]+/g, '-')
		.replace(/^[^a-z\d_]+|-+$/g, '') || 'operation';

/** A name for files out of any text. */
export const nameFrom = (text: string): string =>
	text
		.replace(/^.*[\\/]/, '')
		.replace(/\.(wsdl|xml|zip|json|ya?ml)$/i, '')
		.toLowerCase()
		.replace(/[^a-z\d-]+/g, '-')
		.replace(/^-+|-+$/g, '') || 'service';
