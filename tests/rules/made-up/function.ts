import type { ExpressionFunction } from '../../../src/core/values/functions/kind.ts';

export const madeUp: ExpressionFunction[] = [
	{
		name: 'knots',
		takes: ['kmh'],
		doc: 'A speed in knots.',
		example: { expression: '$knots(18.52)', gives: 10 },
		run: (_, kmh) => Number(kmh) / 1.852
	}
];
