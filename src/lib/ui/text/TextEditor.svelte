<script lang="ts">
	import { autocompletion, type CompletionSource } from '@codemirror/autocomplete';
	import { json } from '@codemirror/lang-json';
	import { xml } from '@codemirror/lang-xml';
	import { yaml } from '@codemirror/lang-yaml';
	import { syntaxHighlighting } from '@codemirror/language';
	import { setDiagnostics, type Diagnostic } from '@codemirror/lint';
	import { EditorState, type Extension, type Text } from '@codemirror/state';
	import { EditorView } from '@codemirror/view';
	import { untrack } from 'svelte';
	import { completeNames } from '../editor/complete.ts';
	import { colours, look } from '../editor/look.ts';
	import { expressionMarks } from '../editor/marks.ts';
	import { useEvaluate, useNames } from '../editor/names.svelte.ts';
	import { AIDS, KEYS, PANELS } from './set-up.ts';

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
						AIDS,
						languages[language]?.() ?? [],
						autocompletion({ icons: false, override: [completeExpression, complete] }),
						KEYS,
						expressionMarks(names, evaluate),
						syntaxHighlighting(colours),
						look,
						PANELS,
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
