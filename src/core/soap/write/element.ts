import { didYouMean } from '../../messages.ts';
import { isObject, type Json } from '../../model/json.ts';
import { TEXT_KEY, TYPE_KEY, XSI } from '../envelope.ts';
import type { ElementModel, TypeModel } from '../model.ts';
import { splitName } from '../tree.ts';
import { writeComplex } from './complex.ts';
import { textOf, type ValuePath, type Writing } from './writing.ts';

/** The type that a value asks for by xsi:type, or the declared one. */
function chosenType(writing: Writing, key: string, value: Json, path: ValuePath): { key: string; other: boolean } {
	const type = writing.types[key];
	const wanted = isObject(value) ? value[TYPE_KEY] : undefined;
	const at = [...path, TYPE_KEY];
	if (wanted === undefined) {
		if (type?.kind === 'complex' && type.abstract)
			writing.report(at, `it is abstract: say which type it has by ${TYPE_KEY}`);
		return { key, other: false };
	}
	const derived = type?.kind === 'complex' ? type.derived : undefined;
	const found = (derived ?? [key]).find(
		(one) => one === wanted || splitName(one).local === String(wanted).replace(/^.*:/, '')
	);
	if (!found) {
		const known = (derived ?? []).map((one) => splitName(one).local);
		const name = textOf(wanted as Json);
		writing.report(at, `there is no type ${name} here${didYouMean(name, known)}`);
	}
	return { key: found ?? key, other: found !== undefined };
}

/** Writes an element with its content: nil, text, or elements. */
export function writeElement(writing: Writing, one: ElementModel, value: Json, indent: string, path: ValuePath): void {
	const name = writing.qualified(one.namespace, one.local);
	const { key, other } = chosenType(writing, one.type, value, path);
	const type = writing.types[key];
	const attributes: string[] = [];
	if (other || (writing.encoded && type?.name && !(type.kind === 'complex' && type.arrayOf))) {
		const { namespace, local } = splitName(type?.name || key);
		attributes.push(`${writing.qualified(XSI, 'type')}="${writing.qualified(namespace, local)}"`);
	}
	if (value === null) {
		if (!one.nillable) writing.report(path, 'it cannot be nil');
		writing.lines.push(`${indent}<${name} ${writing.qualified(XSI, 'nil')}="true"/>`);
	} else if (!type || type.kind === 'simple')
		writeSimple(writing, one, type, value, [name, ...attributes], indent, path);
	else writeComplex(writing, one, type, value, [name, ...attributes], indent, path);
}

function writeSimple(
	writing: Writing,
	one: ElementModel,
	type: TypeModel | undefined,
	value: Json,
	head: string[],
	indent: string,
	path: ValuePath
): void {
	const text = isObject(value) ? textOf(value[TEXT_KEY] ?? '') : textOf(value);
	if (isObject(value)) {
		for (const at of Object.keys(value))
			if (at !== TEXT_KEY && at !== TYPE_KEY) writing.report([...path, at], `${one.local} holds text only`, true);
	}
	if (one.fixed !== undefined && !writing.open(text) && text !== one.fixed)
		writing.report(path, `it is fixed to ${one.fixed}`);
	writing.checkText(type, text, path);
	const { binary } = writing.options;
	const apart = binary && text && type?.kind === 'simple' && type.builtin === 'base64Binary';
	writing.lines.push(`${indent}<${head.join(' ')}>${apart ? binary(text) : writing.escape(text)}</${head[0]}>`);
}
