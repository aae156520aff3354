import { QueryTypes, type Sequelize } from 'sequelize';

/** A stand-in that runs, as it was started. */
interface StartedStandIn {
	project: string;
	name: string;
	environment: string;
	/** Faults by name, or as they are written. */
	faults: string[];
}

export interface StandInStore {
	put(started: StartedStandIn): Promise<void>;
	remove(project: string, name: string): Promise<void>;
	/** Those of projects that are there. */
	list(): Promise<StartedStandIn[]>;
}

export function createStandInStore(sequelize: Sequelize): StandInStore {
	return {
		async put({ project, name, environment, faults }) {
			await sequelize.query(
				'INSERT OR REPLACE INTO stand_ins (project, name, environment, faults) VALUES ($1, $2, $3, $4)',
				{ bind: [project, name, environment, JSON.stringify(faults)] }
			);
		},
		async remove(project, name) {
			await sequelize.query('DELETE FROM stand_ins WHERE project = $1 AND name = $2', { bind: [project, name] });
		},
		async list() {
			const rows = await sequelize.query<Omit<StartedStandIn, 'faults'> & { faults: string }>(
				`SELECT stand_ins.project, stand_ins.name, environment, faults FROM stand_ins
				JOIN projects ON projects.name = stand_ins.project AND projects.removedAt IS NULL ORDER BY 1, 2`,
				{ type: QueryTypes.SELECT }
			);
			return rows.map((row) => ({ ...row, faults: JSON.parse(row.faults) as string[] }));
		}
	};
}
