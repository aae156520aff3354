import { HeronError } from '../errors.ts';
import { wordsOfFault, type ContractFault } from '../checks/index.ts';
import type { SendSpec } from '../model/step.ts';
import { inEnvironment } from '../documents/connection.ts';
import { viewRequest, type ReplyView } from '../model/view.ts';
import {
	carriedBy,
	fragmentOf,
	pathValues,
	replyFaults as openapiFaults,
	requestFaults as openapiRequestFaults,
	type OpenapiOperation
} from '../openapi/index.ts';
import { contractFaults as envelopeFaults, parseSoap, replyFaults as soapFaults } from '../soap/index.ts';
import type { Scope } from '../values/index.ts';
import type { StepContext } from './context.ts';
import type { Chosen } from './plan.ts';
import type { PreparedRequest } from './ports.ts';

/** A call before it is sent. */
export interface Asking extends Called {
	request: Pick<PreparedRequest, 'method' | 'url' | 'headers' | 'body'>;
}

/** A call with what is known of where it went. */
export interface Called {
	spec: SendSpec;
	chosen: Pick<Chosen, 'connection'>;
	request: Pick<PreparedRequest, 'method' | 'url' | 'headers'>;
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
	const { pathname, search } = new URL(request.url);
	const carried = carriedBy(search, request.headers, fragmentOf(spec.target));
	return workspace.openapis.find(
		{ method: request.method, path: pathname, base: pathOf(base), carried },
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
	return soapFaults(view, workspace.wsdls.find(name, soap.version, soap.definition), ports.xml);
}

/**
 * What in a request is not as the definition has it; that no definition knows the call is such a thing, too.
 * @throws HeronError definition.* for what cannot be read or followed
 */
export async function requestContractFaults(call: Asking, context: StepContext): Promise<ContractFault[]> {
	const { workspace, environment, evaluator, ports } = context;
	const { spec, chosen, scope, request } = call;
	const view = viewRequest(request, ports.xml);
	try {
		const soap = spec.body?.kind === 'soap' ? parseSoap(spec.body.value) : undefined;
		if (soap) {
			const name = await evaluator.text(soap.operation, scope);
			const found = workspace.wsdls.find(name, soap.version, soap.definition);
			return await envelopeFaults(view.message, 'input', found, ports.xml);
		}
		const operation = await operationOf(call, context);
		const found = workspace.connections.get(spec.connection || chosen.connection);
		const connection = found && inEnvironment(found, environment);
		const base = connection ? pathOf(evaluator.bare(await evaluator.text(connection.base, scope))) : '';
		const { pathname, search } = new URL(request.url);
		return await openapiRequestFaults(
			{ path: pathValues(operation, pathname, base), search, headers: request.headers, view },
			operation,
			(value, schema) => ports.validateJson(value, schema)
		);
	} catch (error) {
		if (error instanceof HeronError && (error.code === 'definition.unknown' || error.code === 'definition.ambiguous'))
			return [{ message: error.message }];
		throw error;
	} finally {
		view.close();
	}
}

/** The same in words, a fault each; none where no definition knows the call, or it cannot be read. */
export async function misfits(call: Asking, context: StepContext): Promise<string[]> {
	try {
		if (call.spec.body?.kind !== 'soap') await operationOf(call, context);
		return (await requestContractFaults(call, context)).filter(({ note }) => !note).map(wordsOfFault);
	} catch {
		return [];
	}
}
