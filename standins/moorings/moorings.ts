import type { FastifyInstance } from 'fastify';
import { problem, withLinks, type Service } from './answers.ts';

/** The moorings themselves, and the gauges between them. */
export function addMoorings(app: FastifyInstance, service: Service): void {
	app.get<{ Querystring: Record<string, string> }>('/moorings', (request, reply) => {
		const { state: wanted, basin } = request.query;
		const size = Number(request.query.size ?? 10);
		const page = Number(request.query.page ?? 1);
		if (!Number.isInteger(size) || size < 1 || size > 100 || !Number.isInteger(page) || page < 1) {
			return problem(reply, 400, 'Bad Request', 'size is 1 to 100, page counts from 1');
		}
		const all = service.state.moorings.filter((m) => (!wanted || m.state === wanted) && (!basin || m.basin === basin));
		const items = all.slice((page - 1) * size, page * size).map((m) => ({ ...m, links: withLinks('/moorings', m.id) }));
		const next = new URLSearchParams({ ...request.query, page: String(page + 1) });
		return {
			items,
			total: all.length,
			page,
			size,
			links: page * size < all.length ? { next: `/moorings?${next}` } : {}
		};
	});
	app.get<{ Params: { id: string } }>('/moorings/:id', (request, reply) => {
		const mooring = service.state.moorings.find((m) => m.id === request.params.id);
		if (!mooring) return problem(reply, 404, 'Not Found', `there is no mooring ${request.params.id}`);
		return { ...mooring, links: withLinks('/moorings', mooring.id) };
	});

	app.get('/gauges', () => ({
		items: ['Mill Weir', 'Long Pound', 'Staircase'].map((name, g) => ({
			id: `G${g + 1}`,
			name,
			readings: Array.from({ length: 4 }, (_, i) => ({
				at: new Date(Date.UTC(2026, 4, 14, 6, i * 15)).toISOString(),
				levelMetres: Math.round((1.4 + g * 0.3 + i * 0.02) * 100) / 100,
				flags: i === 3 ? ['latest'] : []
			}))
		}))
	}));
}
