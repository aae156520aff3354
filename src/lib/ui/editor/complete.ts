import { functions, languageFunctions } from '#core/values/index.ts';
import type { Completion, CompletionContext, CompletionResult } from '@codemirror/autocomplete';
import type { NameHint } from './names.svelte.ts';

export const sameNames = (some: readonly NameHint[], others: readonly NameHint[]): boolean =>
	some === others || (some.length === others.length && some.every(({ name }, at) => name === others[at]!.name));

const signature = ({ name, takes }: { name: string; takes: string[] }): string => `$${name}(${takes.join(', ')})`;

/** What a function is for, beside the list. */
const info = (doc: string, example?: string) => () => {
	const dom = document.createElement('div');
	dom.className = 'max-w-80 px-1 text-[13px]';
	dom.append(doc);
	if (example) {
		const code = document.createElement('div');
		code.className = 'data pt-1 text-quiet';
		code.textContent = example;
		dom.append(code);
	}
	return dom;
};

const called = (name: string, takes: string[]): string => `$${name}(${takes.length === 0 ? ')' : ''}`;

/** All functions that an expression may call: ours first. */
const functionHints: Completion[] = [
	...functions.list.map(({ name, takes, doc, example }) => ({
		label: `$${name}`,
		displayLabel: signature({ name, takes }),
		apply: called(name, takes),
		info: info(doc, example.expression),
		boost: -1
	})),
	...functions.fakeKinds.map((kind) => ({
		label: `$fake.${kind}`,
		detail: 'made up',
		apply: `$fake.${kind}()`,
		boost: -2
	})),
	...languageFunctions.map(({ name, takes, doc }) => ({
		label: `$${name}`,
		displayLabel: signature({ name, takes }),
		apply: called(name, takes),
		info: info(doc),
		boost: -3
	}))
];

/** Whether a place is inside an expression that is open there; and where that began. */
function openAt(text: string): number {
	const start = text.lastIndexOf('{$');
	if (start < 0 || text[start - 1] === '\\') return -1;
	let depth = 0;
	for (let i = start; i < text.length; i++) {
		if (text[i] === '{') depth++;
		else if (text[i] === '}' && --depth === 0) return -1;
	}
	return start;
}

/** Completes names and functions inside `{$…}`, or anywhere when the whole text is one expression. */
export const completeNames =
	(names: () => NameHint[], bare: boolean) =>
	(context: CompletionContext): CompletionResult | null => {
		const word = context.matchBefore(/\$[\w.]*/);
		if (!word) return null;
		const before = context.state.sliceDoc(Math.max(0, word.from - 5000), word.from + 1);
		const start = openAt(before);
		if (!bare && start < 0) return null;
		// an expression that begins here is closed with the name
		const begins = !bare && start === before.length - 2 && context.state.sliceDoc(context.pos, context.pos + 1) !== '}';
		const options: Completion[] = names().map(({ name, detail }) => ({
			label: `$${name}`,
			detail,
			apply: begins ? `$${name}}` : `$${name}`
		}));
		const asked = names();
		return {
			from: word.from,
			options: [...options, ...functionHints],
			// of names that came since, the next letter tells
			validFor: (text) => /^\$[\w.]*$/.test(text) && sameNames(asked, names())
		};
	};
