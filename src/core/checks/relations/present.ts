import type { RelationKind } from '../relation.ts';
import { flag } from './flag.ts';

export const present: RelationKind = flag(
	'present',
	'is present',
	'Something is there, null included; with false: nothing is there.',
	(v) => ({ holds: v !== undefined }),
	1,
	{ nothing: true }
);
