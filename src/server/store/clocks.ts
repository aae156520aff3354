import { QueryTypes, type Sequelize } from 'sequelize';

/** When a suite runs by the clock. */
export interface Clock {
	project: string;
	suite: string;
	/** As a crontab has it, five fields. */
	pattern: string;
	/** IANA name. */
	zone: string;
	enabled: boolean;
	/** Up to when it was looked, in milliseconds since 1970. */
	seenAt: number;
	/** How many times went by when nothing could run, and when the last of them was. */
	missed: number;
	missedAt: number;
	/** What kept the last one from running; empty for nothing. */
	note: string;
}

export interface ClockStore {
	/** Of one project, or of all that are not removed. */
	list(project?: string): Promise<Clock[]>;
	set(clock: Clock): Promise<void>;
	remove(project: string, suite: string): Promise<void>;
	/** Notes how far it was looked, and what came of it. */
	seen(clock: Pick<Clock, 'project' | 'suite' | 'seenAt' | 'missed' | 'missedAt' | 'note'>): Promise<void>;
}

export function createClockStore(sequelize: Sequelize): ClockStore {
	return {
		async list(project) {
			const rows = await sequelize.query<Omit<Clock, 'enabled'> & { enabled: number }>(
				`SELECT clocks.* FROM clocks JOIN projects ON projects.name = clocks.project AND projects.removedAt IS NULL
				WHERE $1 = '' OR project = $1 ORDER BY project, suite`,
				{ bind: [project ?? ''], type: QueryTypes.SELECT }
			);
			return rows.map((row) => ({ ...row, enabled: row.enabled === 1 }));
		},
		async set({ project, suite, pattern, zone, enabled, seenAt, missed, missedAt, note }) {
			await sequelize.query(
				`INSERT INTO clocks (project, suite, pattern, zone, enabled, seenAt, missed, missedAt, note)
				VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9) ON CONFLICT (project, suite) DO UPDATE SET
				pattern = $3, zone = $4, enabled = $5, seenAt = $6, missed = $7, missedAt = $8, note = $9`,
				{ bind: [project, suite, pattern, zone, enabled ? 1 : 0, seenAt, missed, missedAt, note] }
			);
		},
		async remove(project, suite) {
			await sequelize.query('DELETE FROM clocks WHERE project = $1 AND suite = $2', { bind: [project, suite] });
		},
		async seen({ project, suite, seenAt, missed, missedAt, note }) {
			await sequelize.query(
				'UPDATE clocks SET seenAt = $3, missed = $4, missedAt = $5, note = $6 WHERE project = $1 AND suite = $2',
				{ bind: [project, suite, seenAt, missed, missedAt, note] }
			);
		}
	};
}
