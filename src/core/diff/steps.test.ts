import { expect, test } from 'vitest';
import { changedSteps } from './index.ts';

const step = (id: string, send = 'GET /a') => ({ id, send });
const of = (...scenarios: { id: string; title?: string; steps: unknown[] }[]) => ({ heron: 1, scenarios }) as never;

test.each<[string, unknown, unknown, Record<string, string>]>([
	['nothing', of({ id: 'a', steps: [step('x')] }), of({ id: 'a', steps: [step('x')] }), {}],
	[
		'a step',
		of({ id: 'a', steps: [step('x'), step('y')] }),
		of({ id: 'a', steps: [step('x'), step('y', 'GET /b')] }),
		{ a: 'changed', 'a/y': 'changed' }
	],
	[
		'a new step before the others',
		of({ id: 'a', steps: [step('x')] }),
		of({ id: 'a', steps: [step('n'), step('x')] }),
		{ a: 'changed', 'a/n': 'new' }
	],
	[
		'a step that is gone',
		of({ id: 'a', steps: [step('x'), step('y')] }),
		of({ id: 'a', steps: [step('y')] }),
		{ a: 'changed' }
	],
	[
		'a title alone',
		of({ id: 'a', steps: [step('x')] }),
		of({ id: 'a', title: 'A', steps: [step('x')] }),
		{ a: 'changed' }
	],
	[
		'a new scenario',
		of({ id: 'a', steps: [] }),
		of({ id: 'a', steps: [] }, { id: 'b', steps: [step('x')] }),
		{ b: 'new', 'b/x': 'new' }
	],
	['all of a new collection', undefined, of({ id: 'a', steps: [step('x')] }), { a: 'new', 'a/x': 'new' }],
	['nothing of what cannot be read', 'x', { scenarios: 7 }, {}]
])('%s is marked', (_, before, after, marks) => {
	expect(changedSteps(before as never, after as never)).toEqual(marks);
});
