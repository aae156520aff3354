import { parseJsonPlainly, writeJson } from '../model/json.ts';
import { HeronError, textOf } from '../errors.ts';
import { utf8 } from '../values/index.ts';
import type { BodyKind } from './kind.ts';

export const json: BodyKind<'json'> = {
	key: 'json',
	label: 'JSON',
	doc: 'Data written as YAML, sent as JSON; a text is taken as JSON text, sent as it is written once its values are filled in.',
	example: { mooring: '{$row.mooring}', nights: 3 },
	fresh: {},
	schema: {},
	contentType: 'application/json',
	check() {},
	async build(value, { evaluator, scope }) {
		if (typeof value !== 'string') {
			return { bytes: utf8(writeJson(await evaluator.deep(value, scope))), contentType: 'application/json' };
		}
		const text = await evaluator.jsonText(value, scope);
		try {
			parseJsonPlainly(evaluator.bare(text));
		} catch (cause) {
			throw new HeronError('value.body', { kind: 'JSON', detail: textOf(cause) }, { cause });
		}
		return { bytes: utf8(text), contentType: 'application/json' };
	}
};
