import type { ContractFault } from '../checks/index.ts';
import type { SendSpec } from '../model/collection.ts';
import { inEnvironment } from '../model/connection.ts';
import type { ReplyView } from '../model/view.ts';
import { replyFaults as openapiFaults, type OpenapiOperation } from '../openapi/index.ts';
import { parseSoap, replyFaults as soapFaults } from '../soap/index.ts';
import type { Scope } from '../values/index.ts';
import type { StepContext } from './context.ts';
import type { Chosen } from './plan.ts';
import type { PreparedRequest } from './ports.ts';

/** A call with what is known of where it went. */
export interface Called {
	spec: SendSpec;
	chosen: Pick<Chosen, 'connection'>;
	request: Pick<PreparedRequest, 'method' | 'url'>;
	scope: Scope;
}

const pathOf = (address: string): string =>
	URL.canParse(address) ? new URL(address).pathname.replace(/\/+$/, '') : '';

/**
 * The operation of the project's OpenAPI documents that a call is one of.
 * @throws HeronError definition.*
 */
export async function operationOf(
	{ spec, chosen, request, scope }: Called,
	{ workspace, environment, evaluator }: StepContext
): Promise<OpenapiOperation> {
	const found = workspace.connections.get(spec.connection || chosen.connection);
	const connection = found && inEnvironment(found, environment);
	const base = connection ? evaluator.bare(await evaluator.text(connection.base, scope)) : '';
	return workspace.catalog.find(
		{ method: request.method, path: new URL(request.url).pathname, base: pathOf(base) },
		connection?.definition
	);
}

/**
 * What in an answer is not as the definition of its call has it.
 * @throws HeronError definition.*
 */
export async function contractFaults(
	call: Called & { view: ReplyView },
	context: StepContext
): Promise<ContractFault[]> {
	const { workspace, evaluator, ports } = context;
	const { spec, scope, view } = call;
	const soap = spec.body?.kind === 'soap' ? parseSoap(spec.body.value) : undefined;
	if (!soap)
		return openapiFaults(view, await operationOf(call, context), (value, schema) => ports.validateJson(value, schema));
	const name = await evaluator.text(soap.operation, scope);
	return soapFaults(view, workspace.shelf.find(name, soap.version, soap.definition), ports.xml);
}
