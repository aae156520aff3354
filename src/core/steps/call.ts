import { isObject, type JsonObject } from '../model/json.ts';
import type { CallSpec } from '../model/step.ts';
import { asText } from '../model/written.ts';
import type { StepKind } from './kind.ts';

export const call: StepKind<'call', CallSpec> = {
	key: 'call',
	label: 'call a scenario',
	doc: 'Carries out another scenario here. What it keeps, or its outputs, are kept by this step; its clean-up is done when this scenario ends.',
	example: { call: 'bookings/book-a-mooring', with: { nights: 3 } },
	fields: [
		{
			name: 'call',
			doc: 'A scenario of this collection by its id, or collection/scenario.',
			schema: { type: 'string' },
			check(value, report) {
				if (typeof value !== 'string' || !/^[\w.-]+(\/[\w.-]+)?$/.test(value))
					report([], 'the id of a scenario is wanted, or collection/scenario');
			}
		},
		{
			name: 'with',
			doc: 'Values for its inputs: variables that it sees over all others.',
			schema: { type: 'object' },
			check(value, report) {
				if (!isObject(value)) report([], 'names with values are wanted');
			}
		},
		{
			name: 'once',
			doc: 'It is carried out once in a run, for all that call it with the same values: a shared sign-in.',
			schema: { type: 'boolean' },
			check(value, report) {
				if (typeof value !== 'boolean') report([], 'true or false is wanted');
			}
		}
	],
	fresh: () => ({ call: '' }),
	parse: (given) => ({
		target: asText(given.call),
		with: (isObject(given.with) ? given.with : {}) as JsonObject,
		once: given.once === true
	}),
	summary: ({ target }) => `call ${target || '…'}`,
	note: ({ target }) => `calls ${target}`,
	reads: (spec) => [spec.with],
	// what the scenario keeps that it calls
	keeps: () => [],
	judges: true,
	alone: true,
	until: 'that',
	run: (spec, act) => act.call(spec)
};
