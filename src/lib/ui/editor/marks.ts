import { parseTemplate } from '#core/values/index.ts';
import { RangeSetBuilder } from '@codemirror/state';
import {
	Decoration,
	EditorView,
	hoverTooltip,
	ViewPlugin,
	type DecorationSet,
	type ViewUpdate
} from '@codemirror/view';
import type { Evaluate, NameHint } from './names.svelte.ts';

const mark = Decoration.mark({ class: 'chip' });

function marksOf(view: EditorView): DecorationSet {
	const builder = new RangeSetBuilder<Decoration>();
	const text = view.state.doc.toString();
	if (text.length < 500_000 && text.includes('{$')) {
		try {
			for (const part of parseTemplate(text)) if ('source' in part) builder.add(part.start, part.end, mark);
		} catch {
			// an expression that is not closed yet
		}
	}
	return builder.finish();
}

/** Marks expressions as chips, with their present value on hover. */
export function expressionMarks(names: () => NameHint[], evaluate?: Evaluate) {
	const marks = ViewPlugin.fromClass(
		class {
			decorations: DecorationSet;
			constructor(view: EditorView) {
				this.decorations = marksOf(view);
			}
			update(update: ViewUpdate) {
				if (update.docChanged) this.decorations = marksOf(update.view);
			}
		},
		{ decorations: (plugin) => plugin.decorations }
	);
	const hover = hoverTooltip((view, at) => {
		let parts: ReturnType<typeof parseTemplate>;
		try {
			parts = parseTemplate(view.state.doc.toString());
		} catch {
			return null;
		}
		const part = parts.find((one) => 'source' in one && one.start <= at && at <= one.end);
		if (!part || !('source' in part)) return null;
		const known = names().find((name) => `$${name.name}` === part.source);
		return {
			pos: part.start,
			end: part.end,
			// what can be done about a field stands below it
			above: true,
			create() {
				const dom = document.createElement('div');
				dom.className = 'px-2 py-1 data';
				dom.textContent = known ? `${part.source} = ${known.detail}` : `${part.source}: computed when it is sent`;
				if (!known && evaluate) {
					dom.textContent = `${part.source} …`;
					void evaluate(part.source).then((result) => (dom.textContent = `${part.source} ${result}`));
				}
				return { dom };
			}
		};
	});
	return [marks, hover];
}
