import { HeronError } from '../errors.ts';
import type { SelectorKind } from './kind.ts';

type TokenKind = 'literal' | 'number' | 'name' | 'operator' | 'open' | 'close' | 'other';
interface Token {
	kind: TokenKind;
	text: string;
	at: number;
}

// XPath 1.0 section 3.7; a name may bear a prefix, and a star may stand in its place
const TOKEN =
	/(?<literal>"[^"]*"|'[^']*')|(?<number>\d+(?:\.\d*)?|\.\d+)|(?<name>[\p{L}_][\p{L}\p{N}_.\-\u00B7]*(?::(?!:)(?:\*|[\p{L}_][\p{L}\p{N}_.\-\u00B7]*))?)|(?<operator>\/\/|\/|\||\+|-|=|!=|<=|<|>=|>)|(?<open>[([])|(?<close>[)\]])|(?<other>::|\.\.|[.@,$*])/uy;

/** @throws HeronError selector.syntax */
function tokensOf(expression: string): Token[] {
	const wrong = (detail: string) => new HeronError('selector.syntax', { selector: expression, detail });
	const tokens: Token[] = [];
	const stack: string[] = [];
	for (let at = 0; at < expression.length;) {
		if (/\s/.test(expression[at]!)) {
			at++;
			continue;
		}
		TOKEN.lastIndex = at;
		const match = TOKEN.exec(expression);
		if (!match) {
			const quote = /["']/.test(expression[at]!);
			throw wrong(quote ? 'a quote is not closed' : `"${expression[at]}" at character ${at + 1} does not belong there`);
		}
		const [kind, text] = Object.entries(match.groups!).find(([, found]) => found !== undefined) as [TokenKind, string];
		if (kind === 'open') stack.push(text);
		if (kind === 'close' && stack.pop() !== (text === ')' ? '(' : '['))
			throw wrong(`"${text}" at character ${at + 1} closes nothing`);
		tokens.push({ kind, text, at });
		at += text.length;
	}
	if (stack.length > 0) throw wrong(`"${stack.at(-1)}" is not closed`);
	const last = tokens.at(-1);
	if (!last) throw wrong('it is empty');
	const unfinished =
		(last.kind === 'operator' && !(last.text === '/' && tokens.length === 1)) || /^(::|@|,|\$)$/.test(last.text);
	if (unfinished) throw wrong(`something is missing behind "${last.text}"`);
	return tokens;
}

const OPERATORS = new Set(['and', 'or', 'mod', 'div']);

/**
 * The expression with element names that bear no prefix matching in any namespace: people write the names that they
 * see, and a default namespace needs no trick. Names with a prefix stay.
 * @throws HeronError selector.syntax
 */
export function namesInAnyNamespace(expression: string): string {
	const tokens = tokensOf(expression);
	let out = '';
	let from = 0;
	tokens.forEach((token, index) => {
		const before = tokens[index - 1];
		const next = tokens[index + 1]?.text;
		if (token.kind !== 'name' || token.text.includes(':')) return;
		// section 3.7: behind an operand a name is an operator
		const operand = before && !(before.kind === 'operator' || before.kind === 'open' || /^(::|@|,)$/.test(before.text));
		const isOperator = operand && (OPERATORS.has(token.text) || before.text !== '$');
		const behindOperator = before?.kind === 'name' && OPERATORS.has(before.text) && index > 1;
		if (isOperator && !behindOperator) return;
		if (next === '(' || next === '::' || before?.text === '@' || before?.text === '$') return;
		const axis = before?.text === '::' ? tokens[index - 2]?.text : '';
		if (axis === 'attribute' || axis === 'namespace') return;
		out += `${expression.slice(from, token.at)}*[local-name()='${token.text}']`;
		from = token.at + token.text.length;
	});
	return out + expression.slice(from);
}

const PREFIXED = /([\p{L}_][\p{L}\p{N}_.-]*):(?!:)/u;
const FUNCTION =
	/^(?:boolean|ceiling|concat|contains|count|floor|last|local-name|name|namespace-uri|normalize-space|not|number|position|round|starts-with|string|string-length|substring|substring-after|substring-before|sum|translate|true|false|id)\s*\(/;

export const xpath: SelectorKind = {
	name: 'XPath',
	doc: 'A value of an XML body, or of HTML as a browser reads it (XPath 1.0). Names without a prefix match in any namespace; a prefix is one that `namespaces` of the connection or the project declares, or the body. One node gives its text, several give a list.',
	example: '/bookings/booking[@state="held"]/reference',
	fits: (selector) => /^[/.(]/.test(selector) || FUNCTION.test(selector),
	problem(selector) {
		try {
			namesInAnyNamespace(selector);
			return undefined;
		} catch (error) {
			return (error as Error).message;
		}
	},
	async select(selector, view, whole = false) {
		const value = await view.xpath(namesInAnyNamespace(selector), whole).catch((error: unknown) => {
			// it is told as it was written
			if (!(error instanceof HeronError) || error.code !== 'selector.syntax') throw error;
			const prefix = /prefix/i.test(error.message) ? selector.match(PREFIXED)?.[1] : undefined;
			const detail = prefix
				? `the prefix ${prefix} is declared neither by the reply nor under namespaces: of the connection or the project`
				: (error.values.detail ?? '');
			throw new HeronError('selector.syntax', { ...error.values, detail, selector }, { cause: error });
		});
		if (!Array.isArray(value)) return { found: true, value, text: typeof value === 'string' };
		if (value.length === 0) return { found: false, items: [] };
		return { found: true, value: value.length === 1 ? value[0]! : value, items: value, text: true };
	}
};
