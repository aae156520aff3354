import { lookUp } from '../model/lookup.ts';
import { parse, printParseErrorCode, type ParseError } from 'jsonc-parser';
import { parseTemplate } from '../values/index.ts';

/** JSON text with something of the same length in place of each expression, so that places stay. */
function withoutExpressions(text: string): string | undefined {
	let out = '';
	let quoted = false;
	let at = 0;
	try {
		for (const part of parseTemplate(text)) {
			if (!('source' in part)) continue;
			const literal = text.slice(at, part.start);
			for (let i = 0; i < literal.length; i++) {
				if (literal[i] === '\\' && quoted) i++;
				else if (literal[i] === '"') quoted = !quoted;
			}
			out += literal + (quoted ? 'x' : '0').padEnd(part.end - part.start, quoted ? 'x' : ' ');
			at = part.end;
		}
	} catch {
		return undefined;
	}
	return out + text.slice(at);
}

const WORDS: Record<string, string> = {
	CommaExpected: 'a comma is missing before it',
	ColonExpected: 'a colon is missing before it',
	PropertyNameExpected: 'a name in double quotes is wanted',
	ValueExpected: 'a value is wanted',
	CloseBraceExpected: 'a } is missing',
	CloseBracketExpected: 'a ] is missing',
	EndOfFileExpected: 'nothing more is wanted here',
	UnexpectedEndOfString: 'the text is not closed: a double quote is missing',
	InvalidEscapeCharacter: 'no such escape: a backslash is written \\\\',
	InvalidCommentToken: 'JSON has no comments',
	InvalidCharacter: 'a control character cannot stand in a text',
	InvalidNumberFormat: 'this is not a number',
	InvalidSymbol: 'a word that is not true, false or null stands in double quotes'
};

const errorOf = (text: string): { message: string; position: number } | undefined => {
	const errors: ParseError[] = [];
	parse(text, errors, { disallowComments: true, allowTrailingComma: false });
	const [first] = errors;
	return (
		first && { message: lookUp(WORDS, printParseErrorCode(first.error)) ?? 'this is not JSON', position: first.offset }
	);
};

/**
 * What is wrong with JSON text that holds expressions: line and column from 1, and the text fixed when one comma does it.
 * @returns undefined when nothing is, or when an expression itself cannot be read
 */
export function jsonFault(
	text: string
): { message: string; line: number; column: number; fixed?: { text: string; label: string } } | undefined {
	const plain = withoutExpressions(text);
	const error = plain === undefined ? undefined : errorOf(plain);
	if (plain === undefined || !error) return undefined;
	const { message, position } = error;
	const before = plain.slice(0, position);
	const line = before.split('\n').length;
	const place = { message, line, column: position - before.lastIndexOf('\n') };
	const valid = (changed: string) => {
		const left = withoutExpressions(changed);
		return left !== undefined && !errorOf(left);
	};
	// behind the last thing that stands before the place
	const end = text.slice(0, position).trimEnd().length;
	const added = `${text.slice(0, end)},${text.slice(end)}`;
	if (valid(added))
		return {
			...place,
			fixed: { text: added, label: `put a comma at the end of line ${text.slice(0, end).split('\n').length}` }
		};
	if (before.trimEnd().endsWith(',')) {
		const less = text.slice(0, end - 1) + text.slice(end);
		if (valid(less)) return { ...place, fixed: { text: less, label: 'take the last comma out' } };
	}
	return place;
}
