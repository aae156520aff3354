import type { QueryInterface } from 'sequelize';
import { first } from './0001-first.ts';

export interface Migration {
	name: string;
	up(query: QueryInterface): Promise<void>;
}

/** In the order in which they are applied; one that has shipped is never changed. */
export const migrations: readonly Migration[] = [first];
