import type { FastifyInstance } from 'fastify';
import { createGatehouse, gatehousePorts } from './gatehouse/index.ts';
import { createMirror } from './mirror.ts';
import { createMoorings } from './moorings/index.ts';
import { createSignOn } from './sign-on/index.ts';
import { createTolls } from './tolls/index.ts';
import { createLedger } from './tolls/ledger.ts';

export interface Standin {
	name: string;
	title: string;
	address: string;
	/** What is there to try. */
	about?: string;
	/** The definition it serves, if any. */
	definition?: string;
}

interface Plan {
	name: string;
	title: string;
	path: string;
	about?: string;
	secure?: true;
	definition?: string;
	create(): Promise<FastifyInstance> | FastifyInstance;
}

/** All stand-ins, in the order of their ports. */
async function plansOf(): Promise<Plan[]> {
	const gatehouse = await createGatehouse();
	const definition = '/v1/openapi.json';
	const ledger = createLedger();
	return [
		{
			name: 'moorings',
			title: 'Moorings, local data',
			path: '/v1',
			definition,
			create: () => createMoorings('local', ledger)
		},
		{
			name: 'moorings-staging',
			title: 'Moorings, staging data',
			path: '/v1',
			definition,
			create: () => createMoorings('staging', ledger)
		},
		{
			name: 'mirror',
			title: 'Mirror: answers with what it received',
			path: '',
			about:
				'Any method, any path. Some paths are odd on purpose: /status/404, /redirect/3, /delay/500, /coded/br, /wrong-json, /deep/1000.',
			create: createMirror
		},
		{
			name: 'sign-on',
			title: 'Sign-on: OAuth 2.0 with a consent page',
			path: '',
			about:
				'Clients: workbench (consent, device code), gauge-reader (client credentials, password), tide-clock (tokens of three seconds). /account wants a token, /never takes none, /odd/…/token gives odd replies.',
			create: createSignOn
		},
		...gatehousePorts.map(([name, title, about]): Plan => ({
			name,
			title,
			about,
			path: '',
			...(name === 'gatehouse-proxy' ? {} : { secure: true as const }),
			create: () => gatehouse[name]
		})),
		{
			name: 'tolls',
			title: 'Tolls: the ledger of lock passages, SOAP 1.1 and 1.2',
			path: '',
			about:
				'/ledger is SOAP 1.1, /ledger12 SOAP 1.2, /desk RPC style. RecordPassage wants WS-Security, FetchReceipt answers with an attachment; a craft that is too long gives a fault.',
			definition: '/ledger?wsdl',
			create: () => createTolls(ledger)
		}
	];
}

/**
 * Starts all stand-ins on loopback, on ports that follow each other.
 * @throws Error when a port is taken, with its number
 */
export async function startStandins(firstPort: number): Promise<{ list: Standin[]; close(): Promise<void> }> {
	const servers: FastifyInstance[] = [];
	const list: Standin[] = [];
	const close = async () => void (await Promise.all(servers.map((server) => server.close())));
	for (const [offset, { name, title, path, about, secure, definition, create }] of (await plansOf()).entries()) {
		const server = await create();
		servers.push(server);
		try {
			await server.listen({ host: '127.0.0.1', port: firstPort === 0 ? 0 : firstPort + offset });
		} catch (error) {
			await close();
			if ((error as NodeJS.ErrnoException).code === 'EADDRINUSE')
				throw new Error(`port ${firstPort + offset} for ${name} is taken`, { cause: error });
			throw error;
		}
		const { port } = server.server.address() as { port: number };
		const origin = `${secure ? 'https' : 'http'}://127.0.0.1:${port}`;
		list.push({
			name,
			title,
			address: origin + path,
			...(about ? { about } : {}),
			...(definition ? { definition: origin + definition } : {})
		});
	}
	return { list, close };
}
