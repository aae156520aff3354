import { didYouMean } from '../../messages.ts';
import { isObject, type Json, type JsonObject } from '../../model/json.ts';
import { TEXT_KEY, TYPE_KEY, XSI } from '../envelope.ts';
import { elementsWithin, type ComplexModel, type ElementModel } from '../model.ts';
import { SOAP_ENCODING, XSD } from '../schema/index.ts';
import { nameOf, splitName } from '../tree.ts';
import { writeContent } from './content.ts';
import { textOf, type ValuePath, type Writing } from './writing.ts';

/**
 * Writes an element of a complex type.
 * @param head the element's name, and attributes that stand already
 */
export function writeComplex(
	writing: Writing,
	one: ElementModel,
	type: ComplexModel,
	value: Json,
	head: string[],
	indent: string,
	path: ValuePath
): void {
	if (type.arrayOf && Array.isArray(value)) return writeArray(writing, type, type.arrayOf, value, head, indent, path);
	// a whole value that is still to be computed, or text where elements are wanted
	const given: JsonObject = isObject(value) ? (value as JsonObject) : { [TEXT_KEY]: value };
	const name = head[0]!;
	const opening = [...head, ...attributesOf(writing, one, type, given, path)].join(' ');
	const text = given[TEXT_KEY] === undefined ? '' : textOf(given[TEXT_KEY]);
	const { lines } = writing;
	if (type.text) {
		if (Object.hasOwn(given, TEXT_KEY)) writing.checkText(type.text, text, path);
		else writing.report([...path, TEXT_KEY], 'its text is missing');
		for (const key of Object.keys(given))
			if (!key.startsWith('@') && key !== TEXT_KEY)
				writing.report([...path, key], `${one.local} holds text only`, true);
		lines.push(`${indent}<${opening}>${writing.escape(text)}</${name}>`);
		return;
	}
	const at = lines.length;
	lines.push('');
	if (text) {
		if (!type.mixed && !writing.open(text)) writing.report(path, `${one.local} holds elements, no text`);
		lines.push(`${indent}  ${writing.escape(text)}`);
	}
	if (text === '' || !writing.open(text)) writeContent(writing, type, given, `${indent}  `, path);
	if (lines.length === at + 1) lines[at] = `${indent}<${opening}/>`;
	else if (lines.length === at + 2 && text)
		lines.splice(at, 2, `${indent}<${opening}>${writing.escape(text)}</${name}>`);
	else {
		lines[at] = `${indent}<${opening}>`;
		lines.push(`${indent}</${name}>`);
	}
}

/** An array of SOAP encoding: items under one name. */
function writeArray(
	writing: Writing,
	type: ComplexModel,
	arrayOf: string,
	value: Json[],
	head: string[],
	indent: string,
	path: ValuePath
): void {
	const { namespace, local } = splitName(writing.types[arrayOf]?.name || nameOf(XSD, 'anyType'));
	const [named] = elementsWithin(type.content);
	const within: ElementModel = {
		local: named?.local ?? 'item',
		namespace: named?.namespace ?? '',
		type: arrayOf,
		nillable: true
	};
	const opening = [...head];
	// an array says of what it is in encoded messages alone (SOAP 1.1 section 5.4.2)
	if (writing.encoded)
		opening.push(
			`${writing.qualified(XSI, 'type')}="${writing.qualified(SOAP_ENCODING, 'Array')}"`,
			`${writing.qualified(SOAP_ENCODING, 'arrayType')}="${writing.qualified(namespace, local)}[${value.length}]"`
		);
	if (value.length === 0) return void writing.lines.push(`${indent}<${opening.join(' ')}/>`);
	writing.lines.push(`${indent}<${opening.join(' ')}>`);
	value.forEach((entry, index) => writing.element(within, entry, `${indent}  `, [...path, index]));
	writing.lines.push(`${indent}</${head[0]}>`);
}

/** The attributes of an element: those of its type, then others that it allows, or that are written all the same. */
function attributesOf(
	writing: Writing,
	one: ElementModel,
	type: ComplexModel,
	given: JsonObject,
	path: ValuePath
): string[] {
	const attributes: string[] = [];
	for (const use of type.attributes) {
		const key = [`@${use.local}`, `@${nameOf(use.namespace, use.local)}`].find((at) => Object.hasOwn(given, at));
		if (key === undefined) {
			if (use.required) writing.report([...path, `@${use.local}`], `the attribute ${use.local} is missing`);
			continue;
		}
		const text = textOf(given[key]!);
		if (use.fixed !== undefined && !writing.open(text) && text !== use.fixed)
			writing.report([...path, key], `it is fixed to ${use.fixed}`);
		writing.checkText(use.type, text, [...path, key]);
		attributes.push(`${writing.qualified(use.namespace, use.local)}="${writing.inAttribute(text)}"`);
	}
	for (const [key, own] of Object.entries(given)) {
		if (!key.startsWith('@') || key === TYPE_KEY) continue;
		const { namespace, local } = splitName(key.slice(1));
		if (type.attributes.some((use) => use.local === local)) continue;
		if (type.anyAttribute || writing.options.unknown)
			attributes.push(`${writing.qualified(namespace, local)}="${writing.inAttribute(textOf(own))}"`);
		if (type.anyAttribute) continue;
		const known = type.attributes.map((use) => `@${use.local}`);
		writing.report([...path, key], `${one.local} has no attribute ${local}${didYouMean(key, known)}`, true);
	}
	return attributes;
}
