import { compileExpression, hasExpression, joined, type Reference, type Segment } from '../values/index.ts';
import type { HeaderList } from '../model/reply.ts';
import type { Redactor } from '../redact/index.ts';
import type { Chosen } from './plan.ts';
import type { Marked } from './prepare.ts';
import type { Memory, StepContext } from './context.ts';

/** A value that was filled in: its expression, and where each of its names has its value from. */
export interface Fill {
	expression: string;
	from: string[];
}

/** A request in pieces, secrets masked; `fill` in a piece is an index of `fills`. */
export interface Pieces {
	fills: Fill[];
	/** What the beginning of the address is from. */
	origin: number[];
	target: Segment[];
	headers: { name: string; segments: Segment[] }[];
	/** None when the body is not text. */
	body?: Segment[];
}

type Context = Pick<StepContext, 'start' | 'row' | 'pass'>;

/** Where the names of an expression have their values from, in words. */
export function originsOf(
	source: string,
	{ start, row, pass }: Context,
	memory: Pick<Memory, 'set'>,
	chosen: Pick<Chosen, 'scenario'>
): string[] {
	const words = compileExpression(source).references.map(({ root, name, rest }: Reference): string => {
		if (root === 'secret') return `the secret ${name}`;
		if (root === 'run') return `the run: ${name}`;
		if (root === 'token') return 'the token of the credential';
		if (root === 'steps') {
			const step = chosen.scenario.steps.find((one) => one.id === name);
			const kept = step?.send?.keep.find((one) => one.name === rest[0]);
			return `step ${name}${kept ? `, which keeps ${kept.selector} as ${kept.name}` : ''}`;
		}
		if (root === 'row') return pass ? `pass ${pass.number} of this step` : `row ${row?.number ?? ''}: column ${name}`;
		if (root !== 'env') return root === '' ? `$${name}` : `$${root}.${name}`;
		if (Object.hasOwn(memory.set, name)) return `${name}: a set step of this scenario`;
		if (row && Object.hasOwn(row.values, name)) return `${name}: row ${row.number}`;
		const { place, raw } = start.originOf(name);
		return `${name}: ${place}${typeof raw === 'string' && hasExpression(raw) ? `, computed as ${raw}` : ''}`;
	});
	return words.length > 0 ? [...new Set(words)] : ['computed when it is sent'];
}

/** The pieces as they may be shown: masked; where a secret lies across pieces, a text is one piece. */
export function shownPieces(
	marked: Marked,
	fillOf: (source: string) => Fill,
	redactor: Redactor,
	headers: HeaderList
): Pieces {
	const hide = (segments: Segment[]): Segment[] => {
		const whole = redactor.text(joined(segments));
		const each = segments.map((one) => ({ ...one, text: redactor.text(one.text) }));
		return joined(each) === whole ? each : [{ text: whole }];
	};
	const utf = new TextDecoder('utf-8', { fatal: true });
	const readable = (segments: Segment[]): Segment[] | undefined => {
		try {
			return segments.map((one) => ({
				...one,
				text: utf.decode(Uint8Array.from(one.text, (c) => c.charCodeAt(0)))
			}));
		} catch {
			return undefined;
		}
	};
	const body = readable(marked.body);
	return {
		fills: marked.marks.sources.map((source) => redactor.record(fillOf(source))),
		origin: marked.origin,
		target: hide(marked.target),
		// a credential may have replaced one
		headers: marked.headers
			.map(({ name, segments }) => ({ name, segments: hide(segments) }))
			.filter(({ name, segments }) => headers.some(([n, value]) => n === name && value === joined(segments))),
		...(body ? { body: hide(body) } : {})
	};
}
