import { HeronError } from '../errors.ts';
import type { Step } from '../model/collection.ts';
import { typesOf, type OpenapiOperation } from '../openapi/index.ts';
import type { Workspace } from './workspace.ts';

/** The operation that a step calls, as far as its file tells; undefined where no OpenAPI document knows the call. */
export function operationOfStep(
	{ catalog, collections, connections, environments, project }: Workspace,
	name: string,
	step: Step | undefined
): OpenapiOperation | undefined {
	const send = step?.send;
	if (!send || send.body?.kind === 'soap' || catalog.files().length === 0) return undefined;
	const connection = connections.get(send.connection || (collections.get(name)?.connection ?? ''));
	// values that an environment may give are taken from the one that is used when nothing is said
	const known = { ...project.variables, ...environments.get(project.environment)?.variables };
	const base = (connection?.base ?? '').replace(/^\{\$env\.(\w+)\}/, (whole, variable: string) =>
		Object.hasOwn(known, variable) ? String(known[variable]) : whole
	);
	// what is filled in when it is sent is a part like any other
	const pathOf = (text: string): string | undefined => {
		const open = text.replace(/\{\$[^{}]*\}|[{}]/g, 'x');
		return URL.canParse(open) ? new URL(open).pathname : undefined;
	};
	const { target } = send;
	const path = pathOf(/^https?:/i.test(target) ? target : `${base.replace(/\/+$/, '')}/${target.replace(/^\/+/, '')}`);
	if (path === undefined) return undefined;
	try {
		const place = { method: send.method, path, base: (pathOf(base) ?? '').replace(/\/+$/, '') };
		return catalog.find(place, connection?.definition);
	} catch (error) {
		if (error instanceof HeronError) return undefined;
		throw error;
	}
}

/** The types of what a step's call answers; undefined where nothing is known of them. */
export function knownTypes(workspace: Workspace, name: string, [at, index]: [number, number]) {
	const step = workspace.collections.get(name)?.scenarios[at]?.steps[index];
	try {
		const operation = operationOfStep(workspace, name, step);
		return operation && typesOf(operation);
	} catch (error) {
		// a check by the definition says what is wrong with it
		if (error instanceof HeronError) return undefined;
		throw error;
	}
}
