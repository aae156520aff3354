import { isObject, type JsonObject } from '../model/json.ts';
import type { StepKind } from './kind.ts';

export const set: StepKind<'set', JsonObject> = {
	key: 'set',
	label: 'set values',
	doc: 'Sets variables for the steps that follow, over those of the environment.',
	example: { set: { arrival: '{$date("yyyy-MM-dd", "+3 d")}' } },
	fields: [
		{
			name: 'set',
			doc: 'Names and values.',
			schema: { type: 'object' },
			check(value, report) {
				if (!isObject(value)) return report([], 'names with values are wanted');
				for (const name of Object.keys(value)) {
					if (!/^[A-Za-z_]\w*$/.test(name)) report([name], `"${name}" cannot be a name: letters, digits and _ can`);
				}
			}
		}
	],
	fresh: () => ({ set: { name: '' } }),
	parse: (given) => (isObject(given.set) ? given.set : {}) as JsonObject,
	summary: (values) => `set ${Object.keys(values).join(', ') || 'values'}`,
	note: (values) => `sets ${Object.keys(values).join(', ')}`,
	reads: (values) => [values],
	sets: (values) => values,
	async run(values, act) {
		for (const [name, value] of Object.entries(values)) act.set(name, await act.value(value));
	}
};
