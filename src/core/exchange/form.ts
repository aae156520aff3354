const decoded = (text: string): string => {
	try {
		return decodeURIComponent(text.replace(/\+/g, ' '));
	} catch {
		return text;
	}
};

/** The pairs of application/x-www-form-urlencoded (URL Standard), what is no encoding left as it is. */
export const decodeForm = (text: string): [name: string, value: string][] =>
	text
		.split('&')
		.filter(Boolean)
		.map((pair) => {
			const at = pair.indexOf('=');
			return at < 0 ? [decoded(pair), ''] : [decoded(pair.slice(0, at)), decoded(pair.slice(at + 1))];
		});
