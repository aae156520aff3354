import type { QueryInterface } from 'sequelize';

/** One step from a database to the next version. */
export interface Migration {
	name: string;
	up(query: QueryInterface): Promise<void>;
}
