import { stepOf } from '../definitions/index.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { parseParams, writeParams, type Param } from '../model/params.ts';
import { bodiesOf, bodyOf, nameOf, preferredBody, type OpenapiOperation } from '../openapi/index.ts';
import type { Workspace } from '../project/index.ts';
import { pointsOf, type Wanted } from './points.ts';

/** A step that would touch what nobody touches. */
export interface MissingStep {
	/** Without an id. */
	step: JsonObject;
	/** What it is for, in words. */
	title: string;
	/** The connection that names the definition; empty where none does. */
	connection: string;
	/** What could not be made, in words. */
	notes: string[];
}

const LISTS = { query: 'query', header: 'headers', cookie: 'cookies', path: 'path' } as const;

/**
 * A step that calls an operation so that one of its points is touched.
 * @returns undefined where the project knows no such operation or point
 */
export function missingStep(
	{ catalog, connections }: Pick<Workspace, 'catalog' | 'connections'>,
	file: string,
	operationName: string,
	pointName: string
): MissingStep | undefined {
	const definition = catalog.all().find((one) => one.file === file)?.definition;
	const operation = definition?.operations.find((one) => nameOf(one) === operationName);
	const point = operation && pointsOf(operation).find(({ name }) => name === pointName);
	if (!operation || !point) return undefined;
	const notes: string[] = [];
	const tools = {
		prefix: '',
		base: '',
		credentials: [],
		usual: '',
		taken: new Set<string>(),
		tell: (one: string) => void notes.push(one)
	};
	const step = stepOf(operation, tools);
	const title = point.kind === 'operation' ? titleOf(operation) : `${titleOf(operation)}: ${pointName}`;
	if (point.wanted) apply(step, operation, point.wanted);
	const through = [...connections.values()].find(
		(one) => one.definition !== '' && file.endsWith(`/${one.definition.replace(/^definitions\//, '')}`)
	);
	return { step: { title, ...step }, title, connection: through?.name ?? '', notes };
}

const titleOf = (operation: OpenapiOperation): string => {
	const { summary } = operation.node.value;
	return typeof summary === 'string' && summary ? summary : nameOf(operation);
};

function apply(step: JsonObject, operation: OpenapiOperation, wanted: Wanted): void {
	if ('status' in wanted) {
		const status = /^\d+$/.test(wanted.status) ? Number(wanted.status) : wanted.status.toUpperCase();
		step.checks = wanted.status === 'default' ? [{ contract: true }] : [{ status }, { contract: true }];
		return;
	}
	if ('media' in wanted) {
		const body = bodiesOf(operation).find(({ type }) => type === wanted.media);
		const made = body && bodyOf(body, 'minimal');
		if (wanted.media === undefined) delete step.body;
		// of a type that says nothing of its content there is only the type
		else step.body = made ?? { text: '', type: wanted.media };
		return;
	}
	if (wanted.place === 'body') {
		const body = preferredBody(bodiesOf(operation));
		const made = body && bodyOf(body, 'full');
		if (made) step.body = made;
		const json = isObject(made?.json) ? (made.json as JsonObject) : undefined;
		if (json && (wanted.out || wanted.value !== undefined)) put(json, wanted.path, wanted.value);
		return;
	}
	const key = LISTS[wanted.place];
	const list = parseParams(step[key]);
	const others = list.filter(({ name }) => name !== wanted.name);
	const before = list.find(({ name }) => name === wanted.name);
	const next: Param[] = wanted.out
		? others
		: [...others, { name: wanted.name, value: wanted.value ?? before?.value ?? '', off: false }];
	if (next.length > 0) step[key] = writeParams(next);
	else delete step[key];
}

/** Puts a value where objects and the first items of lists lead to it; undefined takes away what is there. */
function put(root: JsonObject, path: readonly string[], value: Json | undefined): void {
	let at: Json = root;
	for (const key of path.slice(0, -1)) {
		while (Array.isArray(at)) at = at[0] ?? null;
		if (!isObject(at) || !Object.hasOwn(at, key)) return;
		at = (at as JsonObject)[key]!;
	}
	while (Array.isArray(at)) at = at[0] ?? null;
	if (!isObject(at)) return;
	const holder = at as JsonObject;
	const key = path.at(-1)!;
	if (value === undefined) delete holder[key];
	else holder[key] = value;
}
