import { isObject, type Json, type JsonObject } from '../model/json.ts';
import type { Param } from '../model/params.ts';
import type { OpenapiOperation } from './operations.ts';
import type { Fill } from './sample.ts';
import { fragmentOf } from './variants.ts';
import { nameIn, parametersOf, scalar, styled, type Parameter } from './parameters.ts';
import { bodiesOf, preferredBody, plainly, valueFor, written, bodyOf } from './bodies.ts';

/** What is sent for a call, as a step has it. */
export interface SampleCall {
	/** The path as steps write it, with `{name}` for what is in `path`. */
	target: string;
	path: Param[];
	query: Param[];
	headers: Param[];
	cookies: Param[];
	/** A kind of body with its value, and a media type that is not the kind's own. */
	body?: JsonObject;
	/** What could not be made, in words. */
	notes: string[];
}

/** A call of an operation with values for all that it needs; what it may have stands beside it, switched off. */
export function sampleCall(operation: OpenapiOperation, fill: Fill = 'minimal'): SampleCall {
	const call: SampleCall = { target: targetOf(operation), path: [], query: [], headers: [], cookies: [], notes: [] };
	const holes = new Set([...call.target.matchAll(/\{([^{}]*)\}/g)].map(([, name = '']) => name));
	const known = new Set<string>();
	for (const one of parametersOf(operation)) {
		if (one.in === 'body' || one.in === 'formData') continue;
		const found = isIfMatch(one) && one.example === undefined ? '*' : valueFor(one.schema, one.example, fill);
		// a path without a value is another one
		const value = found === '' && one.in === 'path' ? 'text' : found;
		if (value === undefined) call.notes.push(`no value can be made for ${one.in} ${one.name}`);
		const pairs = written(value ?? '', styled(one, value ?? ''));
		if (one.in === 'path') {
			if (!holes.has(one.name)) continue;
			known.add(one.name);
			call.target = call.target.replace(`{${one.name}}`, () => pathHole(one, call, value ?? ''));
			continue;
		}
		const off = !one.required && fill === 'minimal';
		const list = one.in === 'query' ? call.query : one.in === 'header' ? call.headers : call.cookies;
		list.push(...pairs.map(([name, text]) => ({ name, value: text, off })));
	}
	// names that stand in the path alone
	for (const name of holes)
		if (!known.has(name)) {
			const safe = nameIn(name);
			call.target = call.target.replace(`{${name}}`, `{${safe}}`);
			call.path.push({ name: safe, value: 'text', off: false });
		}
	const body = preferredBody(bodiesOf(operation));
	if (body) {
		const made = bodyOf(body, fill);
		if (made) call.body = made;
		else call.notes.push(`no body can be made of ${body.type}`);
	}
	return call;
}

/** `*` stands for whatever tag there is (RFC 9110 section 13.1.1). */
const isIfMatch = (one: Parameter): boolean => one.in === 'header' && one.name.toLowerCase() === 'if-match';

/** The template, without a fragment that only lists parameters: those tell the operation by themselves. */
function targetOf(operation: OpenapiOperation): string {
	const { template } = operation;
	if (!template.includes('#')) return template;
	const names = new Set(parametersOf(operation).map(({ name }) => name.toLowerCase()));
	const own = fragmentOf(template)
		.split('&')
		.every((mark) => names.has(mark.split('=')[0]!.toLowerCase()));
	return own ? template.replace(/#.*$/s, '') : template;
}

/** What stands in the path for a parameter; labels and matrices are written out where their value is no scalar. */
function pathHole(one: Parameter, call: SampleCall, value: Json): string {
	const safe = nameIn(one.name);
	const compound = Array.isArray(value) || isObject(value);
	if (one.style === 'simple' || !/^(label|matrix)$/.test(one.style)) {
		const [[, text] = ['', '']] = written(value, styled({ ...one, style: 'simple' }, value));
		call.path.push({ name: safe, value: text!, off: false });
		return `{${safe}}`;
	}
	const mark = one.style === 'label' ? '.' : ';';
	if (!compound) {
		call.path.push({ name: safe, value: typeof value === 'string' ? plainly(value) : (value as Json), off: false });
		return `{${mark}${safe}}`;
	}
	const parts = Array.isArray(value)
		? value.map((item): [string, string] => [one.name, encodeURIComponent(scalar(item))])
		: Object.entries(value as JsonObject).map(([key, item]): [string, string] => [
				key,
				encodeURIComponent(scalar(item))
			]);
	const pairs = (joint: string) => parts.map(([key, item]) => (Array.isArray(value) ? item : `${key}${joint}${item}`));
	if (mark === '.') return `.${pairs(one.explode ? '=' : ',').join(one.explode ? '.' : ',')}`;
	return one.explode ? parts.map(([key, item]) => `;${key}=${item}`).join('') : `;${one.name}=${pairs(',').join(',')}`;
}
