import { writeJson } from '../model/json.ts';
import type { ElementModel, ParticleModel, SoapModel, TypeModel } from './model.ts';
import { modelOf } from './model.ts';
import { UNBOUNDED } from './schema/index.ts';
import { splitName } from './tree.ts';
import type { Definition, SoapOperation } from './wsdl/index.ts';

/** An operation that is not as it was in the definition before. */
export interface OperationChange {
	key: string;
	version: string;
	change: 'added' | 'gone' | 'changed';
	/** What is another one, in words. */
	what: string[];
}

const MOST_SHOWN = 6;
const MOST_LINES = 5000;

/** The message of an operation as lines, one for each element and attribute, so that two can be compared. */
function linesOf(model: SoapModel): Map<string, string> {
	const lines = new Map<string, string>();
	const describe = (type: TypeModel | undefined): string => {
		if (!type) return '';
		if (type.kind === 'complex') return type.text ? describe(type.text) : '';
		const facets = Object.entries(type.facets).map(([name, value]) => `${name} ${writeJson(value)}`);
		return [
			type.builtin,
			...(type.item ? ['list of', describe(type.item)] : []),
			...(type.members ?? []).map(describe),
			...facets
		].join(' ');
	};
	const element = (one: ElementModel, at: string, occurs: string, above: string[]): void => {
		const path = at ? `${at}/${one.local}` : one.local;
		const type = model.types[one.type];
		if (lines.size > MOST_LINES) return;
		lines.set(path, [occurs, one.namespace, one.nillable ? 'nillable' : '', one.fixed ?? '', describe(type)].join(' '));
		if (type?.kind !== 'complex' || above.includes(one.type)) return;
		for (const use of type.attributes)
			lines.set(`${path}/@${use.local}`, `${use.required} ${use.fixed ?? ''} ${describe(use.type)}`);
		if (type.content) particle(type.content, path, [...above, one.type]);
		if (type.derived) lines.set(`${path}/xsi:type`, type.derived.map((key) => splitName(key).local).join(' '));
	};
	const particle = (one: ParticleModel, at: string, above: string[]): void => {
		const occurs = `${one.min}..${one.max === UNBOUNDED ? 'any' : one.max}`;
		if (one.kind === 'element') for (const stand of one.elements) element(stand, at, occurs, above);
		else if (one.kind === 'any') lines.set(`${at}/*`, occurs);
		else for (const item of one.items) particle(item, at, above);
	};
	for (const one of model.input.body) element(one, '', '', []);
	for (const one of model.input.headers) element(one, 'header', '', []);
	return lines;
}

/** What the message of an answer looks like. */
function answerLines(definition: Definition, operation: SoapOperation): Map<string, string> {
	if (!operation.output) return new Map();
	return linesOf(modelOf(definition, { ...operation, input: operation.output }));
}

function changesOf(before: Map<string, string>, after: Map<string, string>, where: string): string[] {
	const out: string[] = [];
	const top = (paths: string[]) => paths.filter((path) => !paths.some((other) => path.startsWith(`${other}/`)));
	const gone = top([...before.keys()].filter((path) => !after.has(path)));
	const added = top([...after.keys()].filter((path) => !before.has(path)));
	for (const path of added) out.push(`${where}${path} is new`);
	for (const path of gone) out.push(`${where}${path} is gone`);
	for (const [path, line] of after)
		if (before.has(path) && before.get(path) !== line) out.push(`${where}${path} has changed`);
	return out;
}

/** What is another one in a definition that was read anew: operations, their addresses, and their messages. */
export function compareDefinitions(before: Definition, after: Definition): OperationChange[] {
	const out: OperationChange[] = [];
	const idOf = ({ key, version }: SoapOperation) => `${key} ${version}`;
	const old = new Map(before.operations.map((one) => [idOf(one), one]));
	for (const operation of after.operations) {
		const { key, version } = operation;
		const was = old.get(idOf(operation));
		old.delete(idOf(operation));
		if (!was) {
			out.push({ key, version, change: 'added', what: [] });
			continue;
		}
		const what = [
			...(was.address === operation.address ? [] : [`the address is ${operation.address}`]),
			...(was.action === operation.action ? [] : [`the action is ${operation.action || 'empty'}`]),
			...(was.style === operation.style && was.use === operation.use
				? []
				: [`it is ${operation.style}/${operation.use}`]),
			...changesOf(linesOf(modelOf(before, was)), linesOf(modelOf(after, operation)), ''),
			...changesOf(answerLines(before, was), answerLines(after, operation), 'in the answer, ')
		];
		if (what.length > 0)
			out.push({
				key,
				version,
				change: 'changed',
				what: what.length > MOST_SHOWN ? [...what.slice(0, MOST_SHOWN), `and ${what.length - MOST_SHOWN} more`] : what
			});
	}
	for (const { key, version } of old.values()) out.push({ key, version, change: 'gone', what: [] });
	return out;
}
