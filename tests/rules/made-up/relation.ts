import type { RelationKind } from '../../../src/core/checks/relation.ts';

export const madeUp: RelationKind = {
	name: 'even',
	label: 'is even',
	doc: 'A number that two divide.',
	schema: { const: true },
	example: { value: 4, expected: true },
	judge: (value) => ({ holds: Number(value) % 2 === 0 })
};
