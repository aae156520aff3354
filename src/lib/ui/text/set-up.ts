import { closeBrackets, closeBracketsKeymap, completionKeymap } from '@codemirror/autocomplete';
import { defaultKeymap, history, historyKeymap, indentWithTab } from '@codemirror/commands';
import { bracketMatching, codeFolding, foldGutter, foldKeymap, indentOnInput } from '@codemirror/language';
import { lintGutter, lintKeymap } from '@codemirror/lint';
import { highlightSelectionMatches, search, searchKeymap } from '@codemirror/search';
import { EditorState, type Extension } from '@codemirror/state';
import { EditorView, highlightActiveLine, keymap, lineNumbers } from '@codemirror/view';
import { indentByTree } from '../editor/indent.ts';

/** What editing a whole file takes, whatever its language. */
export const AIDS: Extension[] = [
	lineNumbers(),
	lintGutter(),
	codeFolding({ placeholderText: '…' }),
	foldGutter({ openText: '⌄', closedText: '›' }),
	history(),
	search({ top: true }),
	highlightSelectionMatches(),
	highlightActiveLine(),
	indentOnInput(),
	bracketMatching(),
	closeBrackets(),
	EditorState.tabSize.of(2)
];

/** Tab leaves the editor after Escape: nobody is kept in it. */
export const KEYS = keymap.of([
	...completionKeymap,
	...closeBracketsKeymap,
	...searchKeymap,
	...historyKeymap,
	...foldKeymap,
	...lintKeymap,
	indentByTree,
	...defaultKeymap.filter((one) => one.key !== 'Mod-Enter'),
	indentWithTab
]);

/** The panels, matches and messages of an editor that fills its page. */
export const PANELS = EditorView.theme({
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
});
