import { HeronError } from '#core/errors.ts';
import { parseStep } from '#core/steps/index.ts';
import { inEnvironment } from '#core/documents/connection.ts';
import { emptyMemory, prepareCall, scopeOf, type Chosen, type StepContext } from '#core/run/index.ts';
import { filesNamedIn } from '#core/definitions/index.ts';
import { gatherDefinition, xmlFileText } from '#core/soap/index.ts';

/** Fetches a definition from an address, over a connection of the project, and all that it imports. */
export async function fetchDefinition(
	address: string,
	folder: string,
	connection: string,
	context: StepContext,
	others = false
) {
	const memory = emptyMemory(context.ports);
	const chosen = {
		collection: '',
		connection: '',
		scenario: { id: '', title: '', tags: [], off: false, connection: '', credential: '', inputs: {}, steps: [] }
	} as Pick<Chosen, 'collection' | 'connection' | 'scenario'>;
	const named = context.workspace.connections.get(connection);
	const credential = named ? inEnvironment(named, context.environment).credential : '';
	let origin = '';
	return gatherDefinition(
		address,
		folder,
		async (at) => {
			origin ||= new URL(at).origin;
			// headers and credential are for the host that was named, not for whatever its definition points to
			const own = new URL(at).origin === origin;
			const way = own ? { ...chosen, connection } : chosen;
			const step = parseStep({ id: 'fetch', send: `GET ${at}`, credential: (own && credential) || 'none' });
			const call = await prepareCall(way, step.send!, memory, context, scopeOf(context, memory));
			// nor do they go along when it redirects
			const { headers, origins } = call.request;
			const secretFields = headers.flatMap(([name], index) =>
				origins[index] === 'connection' ? [name.toLowerCase()] : []
			);
			const outcome = await context.ports.send(
				{ ...call.request, secretFields },
				memory.session,
				context.signal,
				call.signIn?.authorizer
			);
			const reply = outcome.exchanges.at(-1)?.reply;
			if (outcome.error || !reply) throw outcome.error ?? new Error('there is no reply');
			if (reply.status >= 400) throw new HeronError('definition.answer', { address: String(at), status: reply.status });
			return reply.body;
		},
		xmlFileText,
		filesNamedIn,
		others
	);
}
