import { spanOf } from '#core/model/trace.ts';
import type { Workspace } from '#core/project/index.ts';
import type { FoundPlace } from '$lib/wire.ts';

/** So many are told. */
const MOST = 12;

/** Collections, scenarios and steps that say all the words, in the order of the project. */
export function findIn({ collections }: Workspace, text: string): FoundPlace[] {
	const words = text.toLowerCase().split(/\s+/).filter(Boolean);
	const found: FoundPlace[] = [];
	/** Whether there is room for more. */
	const look = (one: FoundPlace): boolean => {
		const said = `${one.kind} ${one.text} ${one.more}`.toLowerCase();
		if (words.every((word) => said.includes(word))) found.push(one);
		return found.length < MOST;
	};
	for (const { name: collection, title, scenarios } of collections.values()) {
		if (!look({ kind: 'collection', text: title, more: collection, collection })) return found;
		for (const { id: scenario, title, steps } of scenarios) {
			const place = { collection, scenario };
			if (!look({ kind: 'scenario', text: title, more: `${collection}/${scenario}`, ...place })) return found;
			for (const { id: step, title, send, kind } of steps) {
				const more = send ? `${send.method} ${send.target}` : kind;
				if (!look({ kind: 'step', text: title || step, more, ...place, step })) return found;
			}
		}
	}
	return found;
}

const spans = new WeakMap<Workspace, Map<string, string>>();
/** The step whose calls carry a span, by its beginning. */
export function stepOfSpan(workspace: Workspace, span: string): { span: string; step: string } | undefined {
	let all = spans.get(workspace);
	if (!all) {
		all = new Map();
		for (const { name, scenarios } of workspace.collections.values())
			for (const scenario of scenarios)
				for (const { id } of scenario.steps) {
					const step = `${name}/${scenario.id}/${id}`;
					all.set(spanOf(step), step);
				}
		spans.set(workspace, all);
	}
	const step = all.get(span);
	return step === undefined ? undefined : { span, step };
}
