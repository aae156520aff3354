<script lang="ts">
	import {
		autocompletion,
		closeBrackets,
		completionKeymap,
		completionStatus,
		startCompletion
	} from '@codemirror/autocomplete';
	import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
	import { javascript } from '@codemirror/lang-javascript';
	import { json } from '@codemirror/lang-json';
	import { xml } from '@codemirror/lang-xml';
	import { bracketMatching, indentOnInput, syntaxHighlighting } from '@codemirror/language';
	import { Compartment, EditorState, type Extension } from '@codemirror/state';
	import {
		EditorView,
		keymap,
		lineNumbers,
		placeholder as placeholderOf,
		repositionTooltips,
		tooltips
	} from '@codemirror/view';
	import { untrack } from 'svelte';
	import { completeNames, sameNames } from './complete.ts';
	import { indentByTree } from './indent.ts';
	import { colours, look } from './look.ts';
	import { expressionMarks } from './marks.ts';
	import { useEvaluate, useNames, type NameHint } from './names.svelte.ts';

	let {
		value,
		onchange,
		label,
		language = 'text',
		lines = false,
		numbers = false,
		bare = false,
		readonly = false,
		caret,
		placeholder = '',
		problem = ''
	}: {
		value: string;
		onchange?: (value: string) => void;
		label: string;
		language?: 'json' | 'xml' | 'javascript' | 'text';
		/** Many lines; otherwise a field of one. */
		lines?: boolean;
		/** With the numbers of the lines. */
		numbers?: boolean;
		/** The whole text is one expression, without braces. */
		bare?: boolean;
		readonly?: boolean;
		/** It is gone into at once, at this place of its text. */
		caret?: number;
		placeholder?: string;
		problem?: string;
	} = $props();

	const names = useNames();
	const evaluate = useEvaluate();
	let view: EditorView | undefined; // plain, never state: a deep proxy breaks the editor
	let focused = $state(false);
	const textBefore = ({ doc, selection: { main } }: EditorState) =>
		doc.sliceString(doc.lineAt(main.head).from, main.head);
	const lang = new Compartment();
	const naming = new Compartment();
	const nameOf = (name: string): Extension => EditorView.contentAttributes.of({ 'aria-label': name });
	const languages: Record<string, () => Extension> = { json, xml, javascript };
	const languageOf = (name: string): Extension => languages[name]?.() ?? [];

	/** Keeps the list of names below the line, which moves where a sentence comes above it. */
	function followLine(editor: EditorView): void {
		let before = editor.dom.getBoundingClientRect();
		const look = () => {
			following = completionStatus(editor.state) !== null && editor.dom.isConnected;
			if (!following) return;
			const now = editor.dom.getBoundingClientRect();
			if (now.top !== before.top || now.left !== before.left) repositionTooltips(editor);
			before = now;
			requestAnimationFrame(look);
		};
		if (following) return;
		following = true;
		requestAnimationFrame(look);
	}
	let following = false;

	function mount(node: HTMLElement) {
		untrack(() => {
			const oneLine: Extension = lines
				? [indentOnInput(), bracketMatching(), closeBrackets()]
				: [
						EditorState.transactionFilter.of((tr) => (tr.newDoc.lines > 1 ? [] : tr)),
						keymap.of([{ key: 'Enter', run: (v) => (v.contentDOM.blur(), true) }])
					];
			// one function for good: another one would start the list anew with every update
			const complete = completeNames(names, bare);
			view = new EditorView({
				parent: node,
				state: EditorState.create({
					doc: value,
					extensions: [
						// sending is the page's key
						keymap.of([
							{ key: 'Ctrl-Enter', run: () => false },
							// the list of names goes first
							{ key: 'Escape', run: (v) => (completionStatus(v.state) === null && v.contentDOM.blur(), false) }
						]),
						history(),
						lang.of(languageOf(language)),
						EditorState.languageData.of(() => [{ autocomplete: complete }]),
						autocompletion({ icons: false }),
						// a row or a list would cut it off
						tooltips({ parent: node.closest<HTMLElement>('dialog, [popover]') ?? document.body }),
						keymap.of([
							...completionKeymap,
							...historyKeymap,
							...(lines ? [indentByTree, ...defaultKeymap.filter((k) => k.key !== 'Mod-Enter')] : [])
						]),
						oneLine,
						lines ? EditorView.lineWrapping : [],
						numbers ? lineNumbers() : [],
						expressionMarks(names, evaluate),
						syntaxHighlighting(colours),
						look,
						placeholderOf(placeholder),
						EditorState.readOnly.of(readonly),
						EditorView.editable.of(true),
						naming.of(nameOf(label)),
						EditorView.contentAttributes.of({ 'aria-multiline': String(lines), tabindex: '0' }),
						EditorView.updateListener.of((update) => {
							if (update.docChanged) onchange?.(update.state.doc.toString());
							if (update.focusChanged) focused = update.view.hasFocus;
							if (completionStatus(update.state) !== null) followLine(update.view);
						})
					]
				})
			});
			if (caret !== undefined) {
				view.dispatch({ selection: { anchor: Math.min(caret, value.length) } });
				view.focus();
				startCompletion(view);
			}
		});
		return () => view?.destroy();
	}
	$effect(() => {
		const next = value;
		const current = view?.state.doc.toString();
		if (view && next !== current) view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: next } });
	});
	// names may come while somebody is typing one, and are offered then; a list that is open stays: somebody may press in it
	let known: readonly NameHint[] | undefined;
	$effect(() => {
		if (!focused) return void (known = undefined);
		const now = names();
		const more = known !== undefined && !sameNames(known, now);
		known = now;
		if (!more || !view || completionStatus(view.state) === 'active') return;
		if (/\$[\w.]+$/.test(textBefore(view.state))) startCompletion(view);
	});
	$effect(() => {
		const next = label;
		view?.dispatch({ effects: naming.reconfigure(nameOf(next)) });
	});
	$effect(() => {
		const next = language;
		view?.dispatch({ effects: lang.reconfigure(languageOf(next)) });
	});
</script>

<div
	class="min-w-0 rounded-sm {lines
		? 'border border-rule bg-paper'
		: 'border-b border-transparent focus-within:border-act hover:border-rule'}"
	{@attach mount}
></div>
{#if problem}<p class="text-xs text-fail" role="alert">{problem}</p>{/if}
