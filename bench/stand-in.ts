// A stand-in, or a bare Fastify server that answers the same JSON, in a process of its own; prints its port. Bundled by
// bench/index.mjs.
import Fastify from 'fastify';
import { loadProject } from '../src/core/project/index.ts';
import { memorySource } from '../src/server/engine/index.ts';
import { startStandIns } from '../src/server/engine/stand-in/index.ts';

const value = { reference: 'RW-204417', status: 'confirmed', nights: 3, items: [1, 2, 3] };
const [kind = '', count = '1'] = process.argv.slice(2);

if (kind === 'fastify') {
	const server = Fastify();
	server.get('/bookings/:id', () => value);
	await server.listen({ host: '127.0.0.1', port: 0 });
	process.stdout.write(`${(server.server.address() as { port: number }).port}\n`);
} else {
	const body = kind === 'computed' ? { ...value, reference: '{$path.id}' } : value;
	const others = Array.from({ length: Number(count) - 1 }, (_, n) => ({
		id: `o${n}`,
		ask: `GET /other-${n}/{id}`,
		answer: { body: { json: value } }
	}));
	const stored = kind === 'stored';
	const own = stored
		? { id: 'a', resource: '/bookings', store: 'bookings' }
		: { id: 'a', ask: 'GET /bookings/{id}', answer: { body: { json: body } } };
	const spec = {
		heron: 1,
		...(stored
			? { stores: { bookings: { key: 'id', from: Array.from({ length: 10_000 }, (_, id) => ({ id, ...value })) } } }
			: {}),
		answers: [...others, own]
	};
	const { workspace } = loadProject(
		[
			{ path: 'heron.yaml', text: 'heron: 1\n' },
			{ path: 'stand-ins/bench.yaml', text: JSON.stringify(spec) }
		],
		new Set()
	);
	const running = await startStandIns({
		...{ workspace, names: [], environment: '', secrets: {}, set: {}, port: 0 },
		...{ readFile: () => undefined, data: memorySource(new Map()) }
	});
	process.stdout.write(`${new URL(running.addresses.bench!).port}\n`);
}
