import type { Sequelize, Transaction } from 'sequelize';
import type { Vault } from './vault.ts';

/** Tables that have one row for each of something in an environment. */
const TABLES = ['newest', 'reaches', 'stand_ins'];

/** Keeps what is kept of an environment under another name, all of it or nothing. */
export const renameEnvironment = (
	sequelize: Sequelize,
	vault: Vault,
	project: string,
	{ from, to }: { from: string; to: string }
): Promise<void> =>
	sequelize.transaction(async (transaction: Transaction) => {
		await vault.move(project, from, to, transaction);
		for (const table of TABLES)
			// what is there under the name was of another one
			await sequelize.query(`UPDATE OR REPLACE ${table} SET environment = $3 WHERE project = $1 AND environment = $2`, {
				bind: [project, from, to],
				transaction
			});
	});
