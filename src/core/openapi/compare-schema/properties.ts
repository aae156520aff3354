import { isObject, type Json, type JsonObject } from '../../model/json.ts';
import { asList, type Findings, type LookDeeper } from './findings.ts';

const keysIn = (value: Json | undefined): string[] => (isObject(value) ? Object.keys(value) : []);
const holds = (value: Json | undefined, name: string): boolean => isObject(value) && Object.hasOwn(value, name);

/** Compares the properties of objects: those that came or went, what must be there, and what else may be. */
export function compareProperties(
	before: JsonObject,
	after: JsonObject,
	place: string,
	findings: Findings,
	look: LookDeeper
): void {
	const here = place || '$';
	const sent = findings.direction === 'sent';
	const needs = new Set(asList(after.required).map(String));
	for (const name of keysIn(after.properties)) {
		const at = `${here}.${name}`;
		if (holds(before.properties, name))
			look((before.properties as JsonObject)[name]!, (after.properties as JsonObject)[name]!, at);
		else if (!sent) findings.tell('harmless', 'property added', at, 'is there now');
		else if (!needs.has(name)) {
			// what was anything so far has a schema now
			const open = before.additionalProperties !== false;
			findings.tell('harmless', 'property added', at, open ? 'may be sent, and has a schema now' : 'may be sent');
		}
	}
	for (const name of keysIn(before.properties)) {
		if (holds(after.properties, name)) continue;
		const at = `${here}.${name}`;
		if (!sent) findings.tell('breaking', 'property removed', at, 'is not there any more');
		else if (after.additionalProperties === false)
			findings.tell('breaking', 'property removed', at, 'must not be sent any more');
		else findings.tell('careful', 'property removed', at, 'is not known any more');
	}
	compareRequired(before, after, here, findings);
	const [was, is] = [before.additionalProperties, after.additionalProperties];
	if (isObject(was) && isObject(is)) look(was, is, `${here}.*`);
	else if ((was === false) !== (is === false)) {
		if (is === false) findings.narrower('additionalProperties', place, 'nothing else may be there');
		else findings.wider('additionalProperties', place, 'more may be there');
	}
}

function compareRequired(before: JsonObject, after: JsonObject, here: string, findings: Findings): void {
	const sent = findings.direction === 'sent';
	const [needed, needs] = [new Set(asList(before.required).map(String)), new Set(asList(after.required).map(String))];
	for (const name of needs) {
		if (needed.has(name)) continue;
		if (sent) findings.tell('breaking', 'required', `${here}.${name}`, 'must be sent');
		else findings.tell('harmless', 'required', `${here}.${name}`, 'is always there');
	}
	for (const name of needed) {
		if (needs.has(name)) continue;
		if (sent) findings.tell('harmless', 'required', `${here}.${name}`, 'need not be sent');
		else if (holds(after.properties, name)) findings.tell('careful', 'required', `${here}.${name}`, 'may not be there');
	}
}
