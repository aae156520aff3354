import { inEnvironment, settleConnection, type Connection } from '#core/documents/connection.ts';
import { HeronError } from '#core/errors.ts';
import type { Json } from '#core/model/json.ts';
import { didYouMean } from '#core/messages.ts';
import { emptyEnvelope } from '#core/reach/index.ts';
import { parseStep } from '#core/steps/index.ts';
import { emptyMemory, scopeOf, type StartNames, type StepContext } from '#core/run/index.ts';

export interface ReachOrder {
	/** A connection's name, or an address. */
	target: string;
	environment: string;
	method: string;
	/** Also list the cipher suites that the server takes. */
	suites: boolean;
	/** Of the first call, behind the base address. */
	path?: string;
	/** Tried in place of the connection's own. */
	credential?: string;
	/** The version of an envelope, where a credential goes into one; 1.1 and then 1.2 are tried when left out. */
	soap?: '1.1' | '1.2';
}

const isAddress = (target: string) => /^https?:\/\//i.test(target);

/** Where the check goes: address, way, and what would be sent. @throws HeronError reach.target, value.* */
export async function aim(order: ReachOrder, context: StepContext & { start: StartNames }) {
	const { workspace, environment, ports, evaluator } = context;
	const memory = emptyMemory(ports);
	const scope = scopeOf(context, memory);
	const named = isAddress(order.target) ? undefined : workspace.connections.get(order.target);
	if (!named && !isAddress(order.target)) {
		throw new HeronError('reach.target', {
			name: order.target,
			nearest: didYouMean(order.target, [...workspace.connections.keys()])
		});
	}
	const settled =
		named && (await settleConnection(inEnvironment(named, environment), (value: Json) => evaluator.deep(value, scope)));
	const bears = order.credential ?? (named ? credentialName(context, named) : '');
	// a Security header goes into an envelope
	const soap = workspace.credentials.get(bears)?.kind === 'ws-security' && order.method === 'GET';
	const where = named ? order.path || '/' : order.target;
	const envelope = emptyEnvelope(order.soap ?? '1.1');
	const step = parseStep({
		id: 'reach',
		send: `${soap ? 'POST' : order.method} ${where}`,
		...(soap
			? {
					headers: { 'Content-Type': envelope.type, ...(order.soap === '1.2' ? {} : { SOAPAction: '""' }) },
					body: { xml: envelope.text }
				}
			: {})
	}).send!;
	const chosen = {
		collection: '',
		connection: named?.name ?? '',
		scenario: { id: '', title: '', tags: [], off: false, connection: '', credential: '', inputs: {}, steps: [] }
	};
	// the base address by itself, without the slash that a path would bring
	return { memory, scope, named, settled, step, chosen, soap };
}

/** The base address by itself: without the slash that the path of a call brings. */
export function bare(address: string, connection: Connection | undefined): string {
	const url = new URL(address);
	if (connection && url.pathname !== '/' && !connection.base.trim().endsWith('/'))
		url.pathname = url.pathname.replace(/\/$/, '');
	return url.href;
}

/** The credential that a connection bears in the environment; empty for none. */
export function credentialName(context: StepContext, named: Connection | undefined): string {
	const name = named ? inEnvironment(named, context.environment).credential : '';
	return name === 'none' ? '' : name;
}
