import { isObject, type Json } from '../../model/json.ts';
import { show } from '../../model/show.ts';
import { parseDuration, showDuration } from '../../model/units.ts';
import type { RelationKind } from '../relation.ts';
import { amount, expression, moment } from './values.ts';

export const near: RelationKind = {
	name: 'near',
	label: 'is near',
	doc: 'A number or time that is away from `to` by no more than `by`: a number, or a duration such as 5 min.',
	schema: {
		type: 'object',
		properties: { to: {}, by: { type: ['number', 'string'] } },
		required: ['to', 'by'],
		additionalProperties: false
	},
	example: { value: 3.1416, expected: { to: 3.14, by: 0.01 } },
	problem(expected) {
		const fits = isObject(expected) && 'to' in expected && 'by' in expected && Object.keys(expected).length === 2;
		return fits || expression(expected) ? undefined : '{ to: 10, by: 0.5 } or { to: now, by: 5 min } is wanted';
	},
	judge(value, expected, tools) {
		const { to, by } = (isObject(expected) ? expected : {}) as Record<string, Json>;
		const span = parseDuration(by);
		if (span === undefined) {
			const off = Math.abs(Number(amount(value)) - Number(amount(to)));
			// what decimals cannot hold exactly is not held against the value
			return { holds: off <= Number(amount(by)) * (1 + 1e-12) };
		}
		const off = Math.abs(moment(value, tools.now()) - moment(to, tools.now()));
		return { holds: off <= span, received: `${show(value)}, ${showDuration(off)} away` };
	}
};
