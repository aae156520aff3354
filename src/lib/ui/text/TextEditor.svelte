<script lang="ts">
	import {
		autocompletion,
		closeBrackets,
		closeBracketsKeymap,
		completionKeymap,
		type CompletionSource
	} from '@codemirror/autocomplete';
	import { defaultKeymap, history, historyKeymap, indentWithTab } from '@codemirror/commands';
	import { json } from '@codemirror/lang-json';
	import { xml } from '@codemirror/lang-xml';
	import { yaml } from '@codemirror/lang-yaml';
	import {
		bracketMatching,
		codeFolding,
		foldGutter,
		foldKeymap,
		indentOnInput,
		syntaxHighlighting
	} from '@codemirror/language';
	import { lintGutter, lintKeymap, setDiagnostics, type Diagnostic } from '@codemirror/lint';
	import { highlightSelectionMatches, search, searchKeymap } from '@codemirror/search';
	import { EditorState, type Extension, type Text } from '@codemirror/state';
	import { EditorView, highlightActiveLine, keymap, lineNumbers } from '@codemirror/view';
	import { untrack } from 'svelte';
	import { completeNames } from '../editor/complete.ts';
	import { indentByTree } from '../editor/indent.ts';
	import { colours, look } from '../editor/look.ts';
	import { expressionMarks } from '../editor/marks.ts';
	import { useEvaluate, useNames } from '../editor/names.svelte.ts';

	/** Something that is said of a place, and what fixes it. */
	export interface Said {
		line: number;
		column: number;
		message: string;
		weight: 'error' | 'info';
		fixes: { label: string; fix: () => void }[];
	}

	let {
		value,
		onchange,
		onplace,
		label,
		language,
		complete,
		said
	}: {
		value: string;
		onchange: (value: string) => void;
		/** Where the caret is, in UTF-16 code units. */
		onplace?: (offset: number) => void;
		label: string;
		language: 'yaml' | 'json' | 'xml' | 'text';
		complete: CompletionSource;
		said: readonly Said[];
	} = $props();

	const names = useNames();
	const evaluate = useEvaluate();
	let view: EditorView | undefined; // plain, never state: a deep proxy breaks the editor
	const languages: Record<string, () => Extension> = { json, xml, yaml };

	/** Goes to a line, counted from 1. */
	export function goTo(line: number, column = 1): void {
		if (!view) return;
		const at = view.state.doc.line(Math.min(Math.max(line, 1), view.state.doc.lines));
		const anchor = Math.min(at.from + column - 1, at.to);
		view.dispatch({ selection: { anchor }, effects: EditorView.scrollIntoView(anchor, { y: 'center' }) });
		view.focus();
	}
	/** Changes a piece of the text, as if it were typed. */
	export function change(from: number, to: number, insert: string): void {
		view?.dispatch({ changes: { from, to, insert }, userEvent: 'input' });
		view?.focus();
	}

	function diagnostic({ line, column, message, weight, fixes }: Said, doc: Text): Diagnostic {
		const at = doc.line(Math.min(Math.max(line, 1), doc.lines));
		const from = Math.min(at.from + Math.max(column - 1, 0), at.to);
		const word = /^[^\s,:{}[\]]+/.exec(doc.sliceString(from, at.to))?.[0].length ?? 0;
		return {
			from,
			to: Math.min(from + Math.max(word, 1), at.to),
			severity: weight,
			message,
			actions: fixes.map(({ label: name, fix }) => ({ name, apply: fix }))
		};
	}

	function mount(node: HTMLElement) {
		untrack(() => {
			const completeExpression = completeNames(names, false);
			view = new EditorView({
				parent: node,
				state: EditorState.create({
					doc: value,
					extensions: [
						lineNumbers(),
						lintGutter(),
						codeFolding({ placeholderText: '…' }),
						foldGutter({ openText: '⌄', closedText: '›' }),
						history(),
						languages[language]?.() ?? [],
						search({ top: true }),
						highlightSelectionMatches(),
						highlightActiveLine(),
						autocompletion({ icons: false, override: [completeExpression, complete] }),
						indentOnInput(),
						bracketMatching(),
						closeBrackets(),
						EditorState.tabSize.of(2),
						// Tab leaves the editor after Escape: nobody is kept in it
						keymap.of([
							...completionKeymap,
							...closeBracketsKeymap,
							...searchKeymap,
							...historyKeymap,
							...foldKeymap,
							...lintKeymap,
							indentByTree,
							...defaultKeymap.filter((one) => one.key !== 'Mod-Enter'),
							indentWithTab
						]),
						expressionMarks(names, evaluate),
						syntaxHighlighting(colours),
						look,
						EditorView.theme({
							'&': { height: '100%' },
							'.cm-activeLine': { background: 'var(--sheet)' },
							'.cm-panels': { background: 'var(--color-base-200)', color: 'var(--color-ink)', border: '0' },
							'.cm-panel.cm-search': { font: '13px var(--font-sans)', padding: '6px 12px' },
							'.cm-panel.cm-search label': { fontSize: '13px' },
							'.cm-panel.cm-search :is(input, button)': { fontSize: '13px' },
							'.cm-textfield': { background: 'var(--sheet)', border: '1px solid var(--color-rule)' },
							'.cm-button': {
								background: 'var(--sheet)',
								border: '1px solid var(--color-rule)',
								borderRadius: '3px',
								minHeight: '24px'
							},
							'.cm-searchMatch': { background: 'var(--chip)' },
							'.cm-searchMatch-selected': { background: 'var(--chip-lit)' },
							'.cm-selectionMatch': { background: 'var(--chip)' },
							'.cm-foldPlaceholder': { background: 'var(--chip)', border: '0', color: 'var(--color-ink)' },
							'.cm-lintRange-error': {
								backgroundImage: 'none',
								textDecoration: 'underline wavy var(--color-error) 1px'
							},
							'.cm-lintRange-info': { backgroundImage: 'none', textDecoration: 'underline dotted var(--quiet) 1px' },
							'.cm-diagnostic': { borderLeft: '3px solid var(--color-error)', font: '13px var(--font-sans)' },
							'.cm-diagnostic-info': { borderLeftColor: 'var(--color-info)' },
							'.cm-diagnosticAction': {
								background: 'var(--color-act)',
								color: 'var(--color-primary-content)',
								minHeight: '24px'
							}
						}),
						EditorView.contentAttributes.of({ 'aria-label': label, 'aria-multiline': 'true', tabindex: '0' }),
						EditorView.updateListener.of((update) => {
							if (update.docChanged) onchange(update.state.doc.toString());
							if (update.docChanged || update.selectionSet) onplace?.(update.state.selection.main.head);
						})
					]
				})
			});
			onplace?.(0);
		});
		return () => view?.destroy();
	}
	$effect(() => {
		const next = value;
		if (view && view.state.doc.toString() !== next)
			view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: next } });
	});
	$effect(() => {
		const list = said;
		if (!view) return;
		const { doc } = view.state;
		view.dispatch(
			setDiagnostics(
				view.state,
				list.map((one) => diagnostic(one, doc))
			)
		);
	});
</script>

<div class="h-full min-h-0" {@attach mount}></div>
