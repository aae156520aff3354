declare module 'har-schema' {
	/** The schemas of HAR 1.2, by their names. */
	const schemas: Record<string, { $id?: string }>;
	export default schemas;
}
