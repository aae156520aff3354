import type { RelationKind } from '../relation.ts';
import { flag } from './flag.ts';
import { sizeOf } from './values.ts';

export const empty: RelationKind = flag(
	'empty',
	'is empty',
	'A text, list or object without content, or null.',
	(v) => ({ holds: v === null || sizeOf(v) === 0 }),
	[],
	{ blank: true }
);
