/** From where to where something stands in a text. */
export interface Place {
	from: number;
	to: number;
}

/** Fewer characters of a secret say nothing, and stand in every text. */
const LEAST = 3;
/** An escape or a letter that was cut in two, one of them written in the other. */
const TORN =
	/(?:\\(?:u[\da-fA-F]{0,3}|x[\da-fA-F]?)?)?(?:&[#\w]{0,32}|%[\da-fA-F]?|\r?\n[ \t]*|[\ud800-\udbff]|\ufffd{1,3})?$/y;
const LONGEST_TORN = 40;

/**
 * Where the beginning of a form stands in a text that was cut right behind it.
 * @param open whether the text was cut at its end, too, and not only where `…` stands in it
 */
export function* beginningsOf(form: string, text: string, open: boolean): Generator<Place> {
	if (form.length <= LEAST) return;
	const first = form.slice(0, LEAST);
	for (let from = text.indexOf(first); from >= 0; from = text.indexOf(first, from + 1)) {
		let like = from + LEAST;
		while (like < text.length && like - from < form.length && text[like] === form[like - from]) like++;
		if (like - from === form.length) continue;
		const behind = text.slice(like, like + LONGEST_TORN + 1).indexOf('…');
		const to = behind >= 0 ? like + behind : open && like + LONGEST_TORN >= text.length ? text.length : undefined;
		if (to !== undefined && reaches(text.slice(from, to), like - from)) yield { from, to };
	}
}

/** Whether nothing but an escape that was torn stands behind what is like a form; its first letters may be like it, too. */
function reaches(text: string, like: number): boolean {
	for (let at = like; at >= Math.max(LEAST, like - LONGEST_TORN); at--) {
		TORN.lastIndex = at;
		if (TORN.test(text)) return true;
	}
	return false;
}
