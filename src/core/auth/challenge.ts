/** One thing that a server asks for in WWW-Authenticate or Proxy-Authenticate. */
export interface Challenge {
	/** In small letters. */
	scheme: string;
	params: Record<string, string>;
	/** For schemes that bring one word instead of parameters. */
	token68?: string;
}

/** Challenges of header fields (RFC 9110 section 11.6.1); several may share a field, parted by commas like their parameters. */
export function parseChallenges(fields: string[]): Challenge[] {
	const list: Challenge[] = [];
	for (const field of fields) {
		let at = 0;
		const match = (pattern: RegExp): RegExpExecArray | null => {
			pattern.lastIndex = at;
			const found = pattern.exec(field);
			if (found) at = pattern.lastIndex;
			return found;
		};
		let current: Challenge | undefined;
		while (at < field.length) {
			if (match(/[\s,]+/y)) continue;
			const param = match(/([!#$%&'*+.^_`|~\w-]+)\s*=\s*(?:"((?:[^"\\]|\\.)*)"|([^\s,"=]+(?=\s*(?:,|$))))/y);
			if (param && current) {
				current.params[param[1]!.toLowerCase()] = param[2] !== undefined ? param[2].replace(/\\(.)/g, '$1') : param[3]!;
				continue;
			}
			const scheme = match(/([!#$%&'*+.^_`|~\w-]+)(?=\s|,|$)/y);
			if (!scheme) {
				// not readable from here on: the next comma may begin something that is
				const comma = field.indexOf(',', at);
				at = comma < 0 ? field.length : comma + 1;
				continue;
			}
			current = { scheme: scheme[1]!.toLowerCase(), params: Object.create(null) as Record<string, string> };
			list.push(current);
			const token = match(/ +([A-Za-z0-9\-._~+/]+=*)(?=\s*(?:,|$))/y);
			if (token) current.token68 = token[1]!;
		}
	}
	return list;
}
