/** A piece of a text; `fill` says which expression gave it. */
export interface Piece {
	text: string;
	fill?: number;
}

const LARGEST = 200_000;

/** JSON in pieces with line breaks and indents, pieces kept; whatever else as it is. */
export function shownJson(pieces: readonly Piece[], type: string): Piece[] {
	const whole = pieces.reduce((n, { text }) => n + text.length, 0);
	if (!/json/.test(type) || whole > LARGEST || pieces.some(({ text }) => /\n/.test(text))) return [...pieces];
	const out: Piece[] = [];
	const add = (text: string, fill: number | undefined) => {
		const last = out.at(-1);
		if (last && last.fill === fill) last.text += text;
		else out.push(fill === undefined ? { text } : { text, fill });
	};
	let depth = 0;
	let quoted = false;
	let escaped = false;
	let opened = false;
	const line = () => `\n${'  '.repeat(depth)}`;
	for (const { text, fill } of pieces)
		for (const letter of text) {
			if (quoted) {
				add(letter, fill);
				if (escaped) escaped = false;
				else if (letter === '\\') escaped = true;
				else if (letter === '"') quoted = false;
				continue;
			}
			const closing = letter === '}' || letter === ']';
			if (closing) {
				depth = Math.max(0, depth - 1);
				if (!opened) add(line(), undefined);
			} else if (opened) add(line(), undefined);
			opened = letter === '{' || letter === '[';
			add(letter, fill);
			if (opened) depth++;
			else if (letter === ',') add(line(), undefined);
			else if (letter === ':') add(' ', undefined);
			else if (letter === '"') quoted = true;
		}
	return out;
}
