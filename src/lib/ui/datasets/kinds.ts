import { functions } from '#core/values/index.ts';

/** Kinds of made-up cells that can be chosen, with the expression that makes them. */
export const MADE_KINDS: readonly { label: string; value: string }[] = [
	{ label: 'counted: 1, 2, 3 …', value: '$row.number' },
	{ label: 'never twice', value: '$unique("a-")' },
	{ label: 'one of a few', value: '$fake.choice("first", "second")' },
	{ label: 'by a pattern', value: '$fake.matching("[A-Z]-[0-9]{2}")' },
	{ label: 'always the same', value: '"the same"' },
	...functions.fakeKinds
		.filter((kind) => kind !== 'choice' && kind !== 'matching')
		.map((kind) => ({
			label: kind.replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`),
			value:
				kind === 'integer' ? '$fake.integer(1, 14)' : kind === 'decimal' ? '$fake.decimal(0, 100)' : `$fake.${kind}()`
		}))
];
