import { HeronError, textOf } from '#core/errors.ts';
import { mkdirSync } from 'node:fs';
import { dirname } from 'node:path';
import { Sequelize, Transaction } from 'sequelize';
import sqlite3 from 'sqlite3';
import { SequelizeStorage, Umzug } from 'umzug';
import { migrations } from './migrations/index.ts';
import { defineTables } from './tables/index.ts';

type Connection = sqlite3.Database & { tuned?: true };

/** Sequelize opens one more connection for each transaction on SQLite and offers no hook to set it up: this is one. */
function tuneConnections(sequelize: Sequelize): void {
	const manager = sequelize.connectionManager as unknown as { getConnection(options: object): Promise<Connection> };
	const original = manager.getConnection.bind(manager);
	manager.getConnection = async (options) => {
		const connection = await original(options);
		if (!connection.tuned) {
			connection.tuned = true;
			connection.configure('busyTimeout', 5000);
			connection.exec('PRAGMA synchronous=NORMAL; PRAGMA foreign_keys=ON');
		}
		return connection;
	};
}

/** Turns what the database says into what people can act on. */
export function storeError(error: unknown): HeronError {
	if (error instanceof HeronError) return error;
	const detail = textOf(error);
	const blocked = /SQLITE_(READONLY|FULL|IOERR|CANTOPEN|BUSY|LOCKED|PERM)/.test(detail);
	return new HeronError(blocked ? 'store.readOnly' : 'store.failed', { detail }, { cause: error });
}

/** Opens the database of a file, making it when it is not there, and brings it up to date. @throws HeronError store.* */
export async function openDatabase(file: string): Promise<Sequelize> {
	try {
		mkdirSync(dirname(file), { recursive: true });
		const sequelize = new Sequelize({
			dialect: 'sqlite',
			dialectModule: sqlite3,
			storage: file,
			logging: false,
			// a transaction that first reads and then writes would fail at once when another one writes
			transactionType: Transaction.TYPES.IMMEDIATE
		});
		tuneConnections(sequelize);
		await sequelize.query('PRAGMA journal_mode=WAL');
		defineTables(sequelize);
		const query = sequelize.getQueryInterface();
		const umzug = new Umzug({
			migrations: migrations.map(({ name, up }) => ({ name, up: () => up(query) })),
			storage: new SequelizeStorage({ sequelize, tableName: 'migrations' }),
			logger: undefined
		});
		await umzug.up();
		return sequelize;
	} catch (error) {
		throw storeError(error);
	}
}
