import { isObject, type Json, type JsonObject } from '../../model/json.ts';
import { TEXT_KEY, XSI } from '../envelope.ts';
import { splitName } from '../tree.ts';
import { textOf, type Writing } from './writing.ts';

/** Writes an element that no definition knows, in the namespace of those around it. */
export function writeStranger(writing: Writing, key: string, value: Json, home: string, indent: string): void {
	if (Array.isArray(value)) return value.forEach((one) => writeStranger(writing, key, one, home, indent));
	const { lines } = writing;
	const { namespace, local } = splitName(key);
	const own = namespace || home;
	const name = writing.qualified(own, local);
	if (value === null) return void lines.push(`${indent}<${name} ${writing.qualified(XSI, 'nil')}="true"/>`);
	if (!isObject(value)) return void lines.push(`${indent}<${name}>${writing.escape(textOf(value))}</${name}>`);
	const entries = Object.entries(value as JsonObject);
	const attributes = entries
		.filter(([at]) => at.startsWith('@'))
		.map(([at, one]) => ` ${at.slice(1)}="${writing.inAttribute(textOf(one))}"`);
	const text = entries.find(([at]) => at === TEXT_KEY)?.[1];
	const inner = entries.filter(([at]) => !/^[@#]/.test(at));
	const open = `${indent}<${name}${attributes.join('')}`;
	if (inner.length === 0)
		return void lines.push(text === undefined ? `${open}/>` : `${open}>${writing.escape(textOf(text))}</${name}>`);
	lines.push(`${open}>`);
	if (text !== undefined) lines.push(`${indent}  ${writing.escape(textOf(text))}`);
	for (const [at, one] of inner) writeStranger(writing, at, one, own, `${indent}  `);
	lines.push(`${indent}</${name}>`);
}
