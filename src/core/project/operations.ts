import { HeronError } from '../errors.ts';
import type { SendSpec } from '../model/step.ts';
import type { Step } from '../steps/index.ts';
import type { Connection } from '../documents/connection.ts';
import { fragmentOf, typesOf, type CallPlace, type Carried, type OpenapiOperation } from '../openapi/index.ts';
import { decodeForm, hasExpression } from '../values/index.ts';
import { addressOf } from './address.ts';
import type { Workspace } from './shape.ts';

/** The base address of a connection, as far as files tell: what an environment may give is taken from the one that is used when nothing is said. */
export const baseOf = ({ environments, project }: Workspace, connection: Connection | undefined): string =>
	addressOf(connection?.base ?? '', { ...project.variables, ...environments.get(project.environment)?.variables });

/** Where a step's call goes, as far as files tell; undefined for one that is no call by address. */
export function callPlaceOf(workspace: Workspace, name: string, step: Step | undefined): CallPlace | undefined {
	const send = step?.send;
	if (!send || send.body?.kind === 'soap') return undefined;
	const base = baseOf(workspace, connectionOfStep(workspace, name, send));
	// what is filled in when it is sent is a part like any other
	const pathOf = (text: string): string | undefined => {
		const open = text.replace(/\{\$[^{}]*\}|[{}]/g, 'x');
		return URL.canParse(open) ? new URL(open).pathname : undefined;
	};
	const { target } = send;
	const path = pathOf(/^https?:/i.test(target) ? target : `${base.replace(/\/+$/, '')}/${target.replace(/^\/+/, '')}`);
	if (path === undefined) return undefined;
	return { method: send.method, path, base: (pathOf(base) ?? '').replace(/\/+$/, ''), carried: carriedByStep(send) };
}

/** What of a step's call may tell which operation is meant, as far as its file tells. */
function carriedByStep({ target, query, headers }: SendSpec): Carried {
	const inTarget = decodeForm(/\?([^#]*)/.exec(target)?.[1] ?? '').map(([name, value]) => ({
		name,
		value,
		off: false
	}));
	return {
		fragment: fragmentOf(target),
		values(name) {
			const own = name.toLowerCase();
			const found = [
				...headers.filter((one) => !one.off && one.name.toLowerCase() === own),
				...[...query, ...inTarget].filter((one) => !one.off && one.name === name)
			].map(({ value }) => (hasExpression(String(value)) ? undefined : String(value)));
			return found.length > 0 ? found : undefined;
		}
	};
}
const connectionOfStep = ({ connections, collections }: Workspace, name: string, send: SendSpec) =>
	connections.get(send.connection || (collections.get(name)?.connection ?? ''));

/** The operation that a step calls, as far as its file tells; undefined where no OpenAPI document knows the call. */
export function operationOfStep(
	workspace: Workspace,
	name: string,
	step: Step | undefined
): OpenapiOperation | undefined {
	const { openapis } = workspace;
	if (!step?.send || openapis.files().length === 0) return undefined;
	const place = callPlaceOf(workspace, name, step);
	try {
		return place && openapis.find(place, connectionOfStep(workspace, name, step.send)?.definition);
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
