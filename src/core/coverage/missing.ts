import { stepOf } from '../definitions/index.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { parseParams, writeParams, type Param } from '../model/params.ts';
import {
	answersOf,
	bodiesOf,
	bodyOf,
	nameOf,
	preferredBody,
	sampleOf,
	type OpenapiOperation,
	type SecurityScheme
} from '../openapi/index.ts';
import type { Credential } from '../documents/credential.ts';
import { fileName } from '../model/name.ts';
import type { Workspace } from '../project/index.ts';
import { missingSoapStep } from './missing-soap.ts';
import type { BodyPath, Wanted } from './point.ts';
import { pointsOf } from './points.ts';
import type { MissingStep } from './missing-step.ts';

const LISTS = { query: 'query', header: 'headers', cookie: 'cookies', path: 'path' } as const;

/**
 * A step that calls an operation so that one of its points is touched.
 * @returns undefined where the project knows no such operation or point
 */
export function missingStep(
	workspace: Pick<Workspace, 'openapis' | 'connections' | 'credentials' | 'wsdls'>,
	file: string,
	operationName: string,
	pointName: string
): MissingStep | undefined {
	if (/\.wsdl$/i.test(file)) return missingSoapStep(workspace, file, operationName, pointName);
	const { openapis, connections, credentials } = workspace;
	const definition = openapis.all().find((one) => one.file === file)?.definition;
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
	if (point.wanted && 'schemes' in point.wanted)
		signIn(step, point.wanted.schemes, [...credentials.values()], tools.tell);
	else if (point.wanted) apply(step, operation, point.wanted);
	if (point.kind === 'beyond') step.checks = refusal(operation);
	const through = [...connections.values()].find(
		(one) => one.definition !== '' && file.endsWith(`/${one.definition.replace(/^definitions\//, '')}`)
	);
	return { step: { title, ...step }, title, connection: through?.name ?? '', notes };
}

const titleOf = (operation: OpenapiOperation): string => {
	const { summary } = operation.node.value;
	return typeof summary === 'string' && summary ? summary : nameOf(operation);
};

function apply(
	step: JsonObject,
	operation: OpenapiOperation,
	wanted: Exclude<Wanted, { schemes: SecurityScheme[] }>
): void {
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
		if (made?.json === undefined) return;
		for (const { path, schema } of wanted.taken)
			made.json = put(
				made.json,
				path,
				sampleOf({ ...schema, ...(body?.schema?.$defs ? { $defs: body.schema.$defs } : {}) }, { fill: 'full' })
			);
		if (wanted.out || wanted.value !== undefined) made.json = put(made.json, wanted.path, wanted.value);
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

/** What a call that is wrong on purpose is checked for: that it is refused, as the definition says where it does. */
function refusal(operation: OpenapiOperation): Json[] {
	const declared = answersOf(operation).map(({ key }) => key.toUpperCase());
	const status = ['400', '422', '4XX'].find((one) => declared.includes(one)) ?? '4XX';
	return [
		{ status: /^\d+$/.test(status) ? Number(status) : status },
		{ contract: { request: false } },
		...(declared.includes(status) || declared.includes('DEFAULT') ? [{ contract: true }] : [])
	];
}

/** A value with another one where a path leads; undefined takes away what is there. */
function put(there: Json, [key, ...rest]: BodyPath, value: Json | undefined): Json {
	if (key === undefined) return value === undefined ? there : value;
	if (key === 0) {
		const list = Array.isArray(there) ? there : [];
		return [put(list[0] ?? {}, rest, value), ...list.slice(1)];
	}
	if (!isObject(there)) return there;
	const { [key]: before, ...others } = there as JsonObject;
	if (rest.length === 0 && value === undefined) return others;
	return { ...(there as JsonObject), [key]: put(before ?? {}, rest, value) };
}

/** The kinds of credentials by which a security scheme is met. */
function kindsFor({ type, value }: SecurityScheme): string[] {
	switch (type) {
		case 'apiKey':
			return ['api-key'];
		case 'http': {
			const scheme = String(value.scheme ?? '').toLowerCase();
			return scheme === 'bearer' ? ['bearer', 'jwt', 'oauth2'] : [scheme];
		}
		case 'mutualTLS':
			return ['client-certificate'];
		default:
			return ['oauth2', 'bearer', 'jwt'];
	}
}

/** Signs a step in by schemes, with the credentials that there are: one, and keys beside it. */
function signIn(
	step: JsonObject,
	schemes: SecurityScheme[],
	credentials: Credential[],
	tell: (note: string) => void
): void {
	step.credential = 'none';
	for (const scheme of schemes) {
		const own = fileName(scheme.name);
		const fitting = credentials
			.filter(({ kind, value }) => {
				if (!kindsFor(scheme).includes(String(kind))) return false;
				const same = (key: string) =>
					String(isObject(value) ? value[key] : '').toLowerCase() === String(scheme.value[key] ?? '').toLowerCase();
				return kind !== 'api-key' || (same('in') && same('name'));
			})
			.sort((a, b) => Number(b.name.includes(own)) - Number(a.name.includes(own)));
		const [found] = fitting;
		if (!found) tell(`no credential of the project is one for ${scheme.name}: make one, and name it`);
		else if (step.credential === 'none') step.credential = found.name;
		else if (found.kind === 'api-key' && isObject(found.value)) {
			const { in: place, name, key } = found.value as { in?: Json; name?: Json; key?: Json };
			const list = place === 'query' ? 'query' : place === 'cookie' ? 'cookies' : 'headers';
			const params = parseParams(step[list]).filter((one) => one.name !== String(name));
			step[list] = writeParams([...params, { name: String(name), value: key ?? '', off: false }]);
		} else tell(`a step has one credential: that for ${scheme.name} goes into its headers by hand`);
	}
}
