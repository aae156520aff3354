import { HighlightStyle } from '@codemirror/language';
import { EditorView } from '@codemirror/view';
import { tags } from '@lezer/highlight';

// made once: each theme is a style sheet of its own, and a form has hundreds of fields
/** How every editor looks. */
export const look = EditorView.theme({
	'&': { backgroundColor: 'transparent', fontSize: '13px' },
	'&.cm-focused': { outline: 'none' },
	'.cm-scroller': { fontFamily: 'var(--font-mono)', lineHeight: '1.5', fontVariantLigatures: 'none' },
	'.cm-content': { padding: '2px 0', minHeight: '24px', caretColor: 'var(--color-ink)' },
	'.cm-line': { padding: '0 2px' },
	'.cm-cursor': { borderLeftColor: 'var(--color-ink)' },
	'&.cm-focused .cm-selectionBackground, .cm-selectionBackground': { background: 'var(--chip) !important' },
	'.cm-placeholder': { color: 'var(--quiet)' },
	'.cm-gutters': { background: 'transparent', color: 'var(--quiet)', border: '0' },
	'.cm-tooltip': { background: 'var(--sheet)', border: '1px solid var(--color-base-300)', color: 'var(--color-ink)' },
	'.cm-tooltip-autocomplete ul li[aria-selected]': { background: 'var(--color-base-200)', color: 'var(--color-ink)' },
	'.cm-completionDetail': { color: 'var(--quiet)', fontStyle: 'normal' },
	'.cm-matchingBracket': { background: 'transparent !important' },
	'&.cm-focused .cm-matchingBracket': { background: 'var(--chip) !important' }
});
/** How what is written is told apart: by weight and grey, and figures by colour. */
export const colours = HighlightStyle.define([
	{ tag: tags.propertyName, color: 'var(--color-ink)' },
	{ tag: tags.definition(tags.propertyName), fontWeight: '600' },
	{ tag: tags.string, color: 'var(--color-ink)' },
	{ tag: [tags.number, tags.bool, tags.null], color: 'var(--color-info)' },
	{ tag: [tags.tagName, tags.attributeName], color: 'var(--quiet)' },
	{ tag: tags.comment, color: 'var(--quiet)' }
]);
