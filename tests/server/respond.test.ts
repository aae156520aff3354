import { readBody } from '../../src/lib/server/respond.ts';
import { HeronError } from '#core/errors.ts';
import { describe, expect, test } from 'vitest';
import * as yup from 'yup';

const shape = yup
	.object({ name: yup.string(), count: yup.number().integer(), list: yup.array(yup.string()), own: yup.object() })
	.noUnknown();

describe('the body of a request that has another shape is said', () => {
	const cases: [string, string, string][] = [
		['an integer that no number holds, for a text', '{"name":9007199254740993}', 'name must be a string'],
		['and for a number', '{"count":9007199254740993}', 'count must be a number'],
		['and within a list', '{"list":[9007199254740993]}', 'list[0] must be a string'],
		['and in an object that should be a list', '{"list":{"a":9007199254740993}}', 'list must be an array'],
		['a text for an object', '{"own":"x"}', 'own must be an object'],
		['a list for all of it', '[9007199254740993]', 'this must be an object'],
		['what nobody asked for', '{"other":1}', 'this field has unspecified keys: other'],
		['two at once', '{"name":1,"count":"x"}', 'name must be a string; count must be a number']
	];
	test.each(cases)('%s', async (_name, body, said) => {
		const error = await readBody(new Request('http://h/', { method: 'POST', body }), shape).catch((e: unknown) => e);
		expect(error).toBeInstanceOf(HeronError);
		expect(
			String((error as HeronError).values.detail)
				.split('; ')
				.sort()
		).toEqual(said.split('; ').sort());
	});
});
