import { RE2JS } from 're2js';
import { HeronError, textOf } from '../errors.ts';

/** A regular expression that runs in linear time, so that no pattern from a file can hang a run. */
export interface Pattern {
	/** Whether it matches anywhere in the text. */
	test(text: string): boolean;
	/** The first match with its groups, or undefined. */
	exec(text: string, from?: number): { index: number; end: number; groups: (string | undefined)[] } | undefined;
}

/** What ECMAScript takes for white space and line ends beside what the library does (ECMA-262 section 22.2.2.9). */
const SPACES = '\\u000b\\u00a0\\u1680\\u2000-\\u200a\\u2028\\u2029\\u202f\\u205f\\u3000\\ufeff';

/** A pattern whose \\s and \\S mean what ECMAScript means. */
function withSpaces(source: string): string {
	if (!/\\s/i.test(source)) return source;
	let inClass = false;
	return source.replace(/\\[\s\S]|[[\]]/g, (found) => {
		if (found === '[') inClass = true;
		else if (found === ']') inClass = false;
		else if (found === '\\s') return inClass ? `\\s${SPACES}` : `[\\s${SPACES}]`;
		else if (found === '\\S' && !inClass) return `[^\\s${SPACES}]`;
		return found;
	});
}

/**
 * Reads an ECMAScript pattern. Look-around and back-references are refused, because they cannot be linear.
 * @throws HeronError pattern.syntax
 */
export function compilePattern(source: string, flags = ''): Pattern {
	let compiled: RE2JS;
	try {
		let bits = 0;
		if (flags.includes('i')) bits |= RE2JS.CASE_INSENSITIVE;
		if (flags.includes('m')) bits |= RE2JS.MULTILINE;
		if (flags.includes('s')) bits |= RE2JS.DOTALL;
		compiled = RE2JS.compile(RE2JS.translateRegExp(withSpaces(source)), bits);
	} catch (cause) {
		throw new HeronError('pattern.syntax', { pattern: source, detail: textOf(cause) }, { cause });
	}
	return {
		test: (text) => compiled.matcher(text).find(),
		exec(text, from = 0) {
			const matcher = compiled.matcher(text);
			if (!matcher.find(from)) return undefined;
			const groups: (string | undefined)[] = [];
			for (let i = 0; i <= matcher.groupCount(); i++) groups.push(matcher.group(i) ?? undefined);
			return { index: matcher.start(), end: matcher.end(), groups };
		}
	};
}

/** The RegExp-like class that the expression language is given in place of the host's. */
export class LinearRegExp {
	readonly source: string;
	readonly flags: string;
	readonly global = true;
	lastIndex = 0;
	private readonly pattern: Pattern;

	constructor(source: string | RegExp, flags = '') {
		this.source = typeof source === 'string' ? source : source.source;
		this.flags = typeof source === 'string' ? flags : source.flags;
		this.pattern = compilePattern(this.source, this.flags);
	}
	exec(text: string): RegExpExecArray | null {
		const match = this.pattern.exec(text, this.lastIndex);
		if (!match) {
			this.lastIndex = 0;
			return null;
		}
		this.lastIndex = match.end > match.index ? match.end : match.end + 1;
		return Object.assign([...match.groups], { index: match.index, input: text }) as unknown as RegExpExecArray;
	}
	test(text: string): boolean {
		return this.pattern.test(text);
	}
}
