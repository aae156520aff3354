import { HeronError } from '#core/errors.ts';
import { randomUUID } from 'node:crypto';
import { QueryTypes, type Sequelize } from 'sequelize';

/** change: the verdict is another than that of the run before; held: the gate holds the line; each: any run. */
export const OCCASIONS = ['change', 'held', 'each'] as const;
export type Occasion = (typeof OCCASIONS)[number];

/** Somebody who is told of verdicts. */
export interface Callout {
	id: string;
	project: string;
	/** Empty for all suites. */
	suite: string;
	address: string;
	occasion: Occasion;
	/** When something was last sent, in milliseconds since 1970; 0 for never. */
	lastAt: number;
	/** What came of it, in words. */
	last: string;
}
/** Something that is to be sent. */
export interface Delivery {
	id: string;
	callout: string;
	/** JSON. */
	body: string;
	tries: number;
	/** When it is tried next, in milliseconds since 1970. */
	nextAt: number;
}

export interface CalloutStore {
	list(project: string): Promise<Callout[]>;
	get(id: string): Promise<Callout | undefined>;
	make(given: Pick<Callout, 'project' | 'suite' | 'address' | 'occasion'>): Promise<Callout>;
	/** @throws HeronError request.notFound */
	remove(project: string, id: string): Promise<void>;
	/** Notes what came of a call. */
	note(id: string, at: number, last: string): Promise<void>;
	queue(callout: string, body: string, nextAt: number): Promise<Delivery>;
	/** Deliveries that are to be tried by a moment, the oldest first. */
	due(until: number, limit: number): Promise<Delivery[]>;
	/** When the next one is due; undefined for none. */
	nextAt(): Promise<number | undefined>;
	later(id: string, tries: number, nextAt: number): Promise<void>;
	done(id: string): Promise<void>;
}

export function createCalloutStore(sequelize: Sequelize): CalloutStore {
	const select = <T extends object>(sql: string, bind: unknown[]) =>
		sequelize.query<T>(sql, { bind, type: QueryTypes.SELECT });
	const run = async (sql: string, bind: unknown[]): Promise<void> => void (await sequelize.query(sql, { bind }));
	const COLUMNS = 'id, project, suite, address, occasion, lastAt, last';
	return {
		list: (project) => select(`SELECT ${COLUMNS} FROM callouts WHERE project = $1 ORDER BY createdAt`, [project]),
		get: async (id) => (await select<Callout>(`SELECT ${COLUMNS} FROM callouts WHERE id = $1`, [id]))[0],
		async make(given) {
			const made = { ...given, id: randomUUID(), lastAt: 0, last: '' };
			await run(
				'INSERT INTO callouts (id, project, suite, address, occasion, createdAt, lastAt, last) VALUES ($1, $2, $3, $4, $5, $6, 0, $7)',
				[made.id, made.project, made.suite, made.address, made.occasion, Date.now(), '']
			);
			return made;
		},
		async remove(project, id) {
			const gone = await select('DELETE FROM callouts WHERE project = $1 AND id = $2 RETURNING id', [project, id]);
			if (gone.length === 0) throw new HeronError('request.notFound', { what: 'this address' });
		},
		note: (id, at, last) => run('UPDATE callouts SET lastAt = $2, last = $3 WHERE id = $1', [id, at, last]),
		async queue(callout, body, nextAt) {
			const made = { id: randomUUID(), callout, body, tries: 0, nextAt };
			await run('INSERT INTO deliveries (id, callout, body, tries, nextAt) VALUES ($1, $2, $3, 0, $4)', [
				...[made.id, callout, body, nextAt]
			]);
			return made;
		},
		due: (until, limit) =>
			select('SELECT id, callout, body, tries, nextAt FROM deliveries WHERE nextAt <= $1 ORDER BY nextAt LIMIT $2', [
				...[until, limit]
			]),
		async nextAt() {
			const [row] = await select<{ at: number | null }>('SELECT MIN(nextAt) AS at FROM deliveries', []);
			return row?.at ?? undefined;
		},
		later: (id, tries, nextAt) =>
			run('UPDATE deliveries SET tries = $2, nextAt = $3 WHERE id = $1', [id, tries, nextAt]),
		done: (id) => run('DELETE FROM deliveries WHERE id = $1', [id])
	};
}
