import { lookUp } from '../model/lookup.ts';
import { HeronError } from '../errors.ts';

/** The ways in which shells quote. */
export type Shell = 'posix' | 'cmd' | 'powershell';

/** What stands for a variable of a shell in a word, until it becomes an expression: `NAME` between two private characters. */
export const VARIABLE = /\uE000(\w+)\uE001/g;
const variable = (name: string): string => `\uE000${name}\uE001`;

/** The shell that a command seems to be written for. */
function shellOf(text: string): Shell {
	if (/\^\s*\r?\n/.test(text) || /(^|\s)\^"/.test(text)) return 'cmd';
	if (/`\s*\r?\n/.test(text) || /^\s*curl\.exe\s.*`"/s.test(text)) return 'powershell';
	return 'posix';
}

/**
 * The commands of a text, each as its words, quotes and escapes resolved as the shell does.
 * @throws HeronError exchange.quote for a quote that is not closed
 */
export function commandsIn(text: string, shell: Shell = shellOf(text)): string[][] {
	return shell === 'cmd' ? cmd(text) : shell === 'powershell' ? powershell(text) : posix(text);
}

const unclosed = (text: string, at: number, quote: string): HeronError => {
	const before = text.slice(0, at).split('\n');
	return new HeronError('exchange.quote', { quote, line: before.length, column: before.at(-1)!.length + 1 });
};

/** Words that are gathered letter by letter. */
function gatherer() {
	const commands: string[][] = [[]];
	let word: string | undefined;
	return {
		add: (text: string) => void (word = (word ?? '') + text),
		endWord: () => {
			if (word !== undefined) commands.at(-1)!.push(word);
			word = undefined;
		},
		endCommand() {
			this.endWord();
			if (commands.at(-1)!.length > 0) commands.push([]);
		},
		inWord: () => word !== undefined,
		done(): string[][] {
			this.endCommand();
			return commands.slice(0, -1);
		}
	};
}

/** POSIX 2.2 (quoting) with `$'…'` of bash. */
function posix(text: string): string[][] {
	const out = gatherer();
	for (let i = 0; i < text.length; i++) {
		const c = text[i]!;
		if (c === '\\') {
			const next = text[++i];
			if (next === '\r' && text[i + 1] === '\n') i++;
			else if (next !== '\n' && next !== undefined) out.add(next);
		} else if (c === "'") {
			const end = text.indexOf("'", i + 1);
			if (end < 0) throw unclosed(text, i, c);
			out.add(text.slice(i + 1, end));
			i = end;
		} else if (c === '"') i = doubled(text, i, out.add);
		else if (c === '$' && text[i + 1] === "'") i = ansi(text, i + 1, out.add);
		else if (c === '$') {
			const [whole, name] = named(text, i);
			out.add(whole ? variable(name) : c);
			i += Math.max(0, whole.length - 1);
		} else if (c === '#' && !out.inWord()) {
			while (i + 1 < text.length && text[i + 1] !== '\n') i++;
		} else if (c === '&' && out.inWord() && /[\w%]/.test(text[i + 1] ?? '')) {
			// an address whose author forgot the quotes
			out.add(c);
		} else if (/[\n;&|]/.test(c)) out.endCommand();
		else if (/\s/.test(c)) out.endWord();
		else out.add(c);
	}
	return out.done();
}

/** A variable that starts at a place; both empty for none. */
function named(text: string, at: number): [whole: string, name: string] {
	const [whole = '', braced, plain] = /^\$(?:\{(\w+)\}|([A-Za-z_]\w*))/.exec(text.slice(at, at + 200)) ?? [];
	return [whole, braced ?? plain ?? ''];
}

function doubled(text: string, from: number, add: (text: string) => void): number {
	add('');
	for (let i = from + 1; i < text.length; i++) {
		const c = text[i]!;
		if (c === '"') return i;
		if (c === '\\' && /["\\$`\n]/.test(text[i + 1] ?? '')) {
			i++;
			if (text[i] !== '\n') add(text[i]!);
		} else {
			const [whole, name] = c === '$' ? named(text, i) : ['', ''];
			add(whole ? variable(name) : c);
			i += Math.max(0, whole.length - 1);
		}
	}
	throw unclosed(text, from, '"');
}

const ESCAPES: Record<string, string> = {
	...{ n: '\n', t: '\t', r: '\r', a: '\x07', b: '\b', e: '\x1b', E: '\x1b', f: '\f', v: '\v' },
	...{ '\\': '\\', "'": "'", '"': '"', '?': '?' }
};

/** `$'…'` of bash, whose bytes are UTF-8. */
function ansi(text: string, from: number, add: (text: string) => void): number {
	let out = '';
	let bytes: number[] = [];
	const flush = () => {
		if (bytes.length > 0) out += new TextDecoder().decode(new Uint8Array(bytes));
		bytes = [];
	};
	for (let i = from + 1; i < text.length; i++) {
		const c = text[i]!;
		if (c === "'") {
			flush();
			add(out);
			return i;
		}
		if (c !== '\\') {
			flush();
			out += c;
			continue;
		}
		const rest = text.slice(i + 1, i + 10);
		const [code = '', hex, octal, unicode] =
			/^(?:x([\da-fA-F]{1,2})|([0-7]{1,3})|u([\da-fA-F]{1,4})|U([\da-fA-F]{1,8}))/.exec(rest) ?? [];
		if (hex ?? octal) bytes.push(hex ? parseInt(hex, 16) : parseInt(octal!, 8) & 255);
		else if (code) {
			flush();
			const point = parseInt(unicode ?? code.slice(1), 16);
			out += point <= 0x10ffff ? String.fromCodePoint(point) : '\uFFFD';
		} else {
			flush();
			out += lookUp(ESCAPES, rest[0] ?? '') ?? `\\${rest[0] ?? ''}`;
			i++;
			continue;
		}
		i += code.length;
	}
	throw unclosed(text, from, "'");
}

/** The command line of Windows: `^` escapes for the interpreter, then quotes as programs read them. */
function cmd(given: string): string[][] {
	// `%` is doubled in files, and `^` joins lines
	const text = given.replace(/\^\s*?\r?\n/g, ' ').replace(/\^([\s\S])/g, '$1');
	const out = gatherer();
	for (let i = 0; i < text.length; i++) {
		const c = text[i]!;
		if (c === '\n' || c === '\r') out.endCommand();
		else if (/\s/.test(c)) out.endWord();
		else if (c === '"') {
			const from = i;
			out.add('');
			for (i++; ; i++) {
				const d = text[i];
				if (d === undefined) throw unclosed(text, from, '"');
				if (d === '\\' && text[i + 1] === '"') out.add(text[++i]!);
				else if (d === '\\' && text[i + 1] === '\\' && /^\\+"/.test(text.slice(i))) out.add(text[++i]!);
				else if (d === '"' && text[i + 1] === '"') out.add(text[++i]!);
				else if (d === '"') break;
				else out.add(d);
			}
		} else if (c === '\\' && text[i + 1] === '"') out.add(text[++i]!);
		else out.add(c);
	}
	return out.done();
}

/** PowerShell: ' without escapes but for '', " with ` as escape. */
function powershell(text: string): string[][] {
	const out = gatherer();
	const escapes: Record<string, string> = { n: '\n', r: '\r', t: '\t', '0': '\0' };
	for (let i = 0; i < text.length; i++) {
		const c = text[i]!;
		if (c === '`') {
			const next = text[++i];
			if (next === '\r' && text[i + 1] === '\n') i++;
			else if (next !== undefined && next !== '\n') out.add(escapes[next] ?? next);
		} else if (c === "'" || c === '"') {
			const from = i;
			out.add('');
			for (i++; ; i++) {
				const d = text[i];
				if (d === undefined) throw unclosed(text, from, c);
				if (d === c && text[i + 1] === c) out.add(text[++i]!);
				else if (d === c) break;
				else if (c === '"' && d === '`') out.add(escapes[text[++i] ?? ''] ?? text[i] ?? '');
				// what is written for programs of their own has its quotes escaped once more
				else if (d === '\\' && text[i + 1] === '"') out.add(text[++i]!);
				else if (c === '"' && d === '$' && /^\$(?:env:)?[A-Za-z_]\w*/.test(text.slice(i, i + 80))) {
					const [whole = '', name = ''] = /^\$(?:env:)?([A-Za-z_]\w*)/.exec(text.slice(i, i + 80))!;
					out.add(variable(name));
					i += whole.length - 1;
				} else out.add(d);
			}
		} else if (c === '\n' || c === ';' || c === '|') out.endCommand();
		else if (/\s/.test(c)) out.endWord();
		else out.add(c);
	}
	return out.done();
}
