import { shortened } from '../model/shortened.ts';
import jsonata from 'jsonata';
import { show } from '../model/show.ts';
import { compileExpression } from './expression.ts';
import { Raw, type Hider, type Result, type Scope } from './scope.ts';

/** What is said of a value, in characters, and what of it is looked through for secrets before it is cut. */
const [SHOWN, LOOKED] = [120, 5000];
const COMPARISONS = new Set(['=', '!=', '<', '<=', '>', '>=', 'in']);
/** Gives another value each time, or one that others then do not get. */
const BY_CHANCE = /\$(?:random|uuid|nonce|unique|fake|shuffle|epoch|date|now|millis|eval)\w*/;

interface Node {
	type?: string;
	value?: unknown;
	/** Of an operator: where it ends in the source. */
	position?: number;
	expressions?: Node[];
}

/** The two sides of an operator, as they are written. */
interface Sides {
	left: string;
	operator: string;
	right: string;
}

/** The two sides of an expression that compares, or that says `and`; brackets around the whole count for nothing. */
function sidesOf(source: string): Sides | undefined {
	let text = source.trim();
	let node = jsonata(text).ast() as unknown as Node;
	while (node.type === 'block' && node.expressions?.length === 1 && text.startsWith('(') && text.endsWith(')')) {
		text = text.slice(1, -1).trim();
		node = jsonata(text).ast() as unknown as Node;
	}
	const { type, value, position = 0 } = node;
	if (type !== 'binary' || typeof value !== 'string' || !(COMPARISONS.has(value) || value === 'and')) return undefined;
	const left = text.slice(0, position - value.length).trim();
	return { left, operator: value, right: text.slice(position).trim() };
}

/**
 * Why an expression that should be true is not: what the two sides of its comparison are, as in `3 = 4`; of several
 * that are joined by `and` the first that does not hold. Undefined where it compares nothing, where a secret goes
 * into it, and where it gives something else each time.
 */
export async function reasonOf(source: string, scope: Scope): Promise<string | undefined> {
	if (BY_CHANCE.test(source)) return undefined;
	let secret = false;
	const { hider } = scope;
	const watching: Hider | undefined = hider && {
		text: (text) => hider.text(text),
		made() {},
		touched: () => (secret = true)
	};
	const watched: Scope = watching ? { ...scope, hider: watching } : scope;
	try {
		const evaluate = async (part: string) => compileExpression(part).evaluate(watched);
		// as a whole it tells of every secret that goes into it
		await evaluate(source);
		return secret ? undefined : await reasonIn(source, { evaluate, hider }, true);
	} catch {
		return undefined;
	}
}

/** Hidden before it is cut: half a secret would be known by nobody. */
function shown(value: Result, hider: Scope['hider']): string {
	const text = show(value instanceof Raw ? value.text : value, LOOKED);
	const hidden = hider ? hider.text(text) : text;
	return shortened(hidden, SHOWN);
}

async function reasonIn(
	source: string,
	tools: { evaluate: (source: string) => Promise<Result>; hider: Scope['hider'] },
	whole: boolean
): Promise<string | undefined> {
	const { evaluate, hider } = tools;
	const sides = sidesOf(source);
	if (!sides) return whole ? undefined : `${source} is ${shown(await evaluate(source), hider)}`;
	const { left, operator, right } = sides;
	// a side need not be a truth value: a text that is not empty counts as one
	if (operator === 'and')
		return reasonIn((await evaluate(`$boolean((${left}))`)) === true ? right : left, tools, false);
	const [first, second] = [await evaluate(left), await evaluate(right)];
	const compared = `${shown(first, hider)} ${operator} ${shown(second, hider)}`;
	return whole ? compared : `${source} is ${compared}`;
}
