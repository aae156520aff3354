import { checkParams, parseParams, PARAMS_SCHEMA } from '../model/params.ts';
import { escapeForm, utf8 } from '../values/index.ts';
import type { BodyKind } from './kind.ts';

export const form: BodyKind<'form'> = {
	key: 'form',
	label: 'form',
	doc: 'Names and values as application/x-www-form-urlencoded.',
	example: { user: 'avery', remember: true },
	fresh: {},
	schema: PARAMS_SCHEMA,
	contentType: 'application/x-www-form-urlencoded',
	check: checkParams,
	async build(value, { evaluator, scope }) {
		const pairs: string[] = [];
		for (const { name, value: written, off } of parseParams(value)) {
			if (off) continue;
			const text = (from: string) => evaluator.text(from, scope, escapeForm, escapeForm);
			pairs.push(`${await text(name)}=${await text(String(written ?? ''))}`);
		}
		return { bytes: utf8(pairs.join('&')), contentType: 'application/x-www-form-urlencoded' };
	}
};
