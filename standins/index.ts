import type { FastifyInstance } from 'fastify';
import { createMirror } from './mirror.ts';
import { createMoorings } from './moorings/index.ts';

export interface Standin {
	name: string;
	title: string;
	address: string;
	/** The definition it serves, if any. */
	definition?: string;
}

interface Plan {
	name: string;
	title: string;
	/** Added to the first port. */
	offset: number;
	path: string;
	definition?: string;
	create(): Promise<FastifyInstance>;
}

const plans: Plan[] = [
	{
		name: 'moorings',
		title: 'Moorings (local data)',
		offset: 0,
		path: '/v1',
		definition: '/v1/openapi.json',
		create: () => createMoorings('local')
	},
	{
		name: 'moorings-staging',
		title: 'Moorings (staging data)',
		offset: 1,
		path: '/v1',
		definition: '/v1/openapi.json',
		create: () => createMoorings('staging')
	},
	{ name: 'mirror', title: 'Mirror: answers with what it received', offset: 2, path: '', create: createMirror }
];

/**
 * Starts all stand-ins on loopback, on ports that follow each other.
 * @throws Error when a port is taken, with its number
 */
export async function startStandins(firstPort: number): Promise<{ list: Standin[]; close(): Promise<void> }> {
	const servers: FastifyInstance[] = [];
	const list: Standin[] = [];
	const close = async () => void (await Promise.all(servers.map((server) => server.close())));
	for (const { name, title, offset, path, definition, create } of plans) {
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
		const origin = `http://127.0.0.1:${port}`;
		list.push({ name, title, address: origin + path, ...(definition ? { definition: origin + definition } : {}) });
	}
	return { list, close };
}
