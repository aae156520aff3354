import { HeronError, textOf } from '#core/errors.ts';
import { AsyncLocalStorage } from 'node:async_hooks';
import { chmodSync, existsSync, mkdirSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname } from 'node:path';
import { QueryTypes, Sequelize, Transaction } from 'sequelize';
import type sqlite3 from 'sqlite3';
import { SequelizeStorage, Umzug } from 'umzug';
import { migrations } from './migrations/index.ts';
import { defineTables } from './tables/index.ts';

type Connection = sqlite3.Database & { tuned?: true };

const PAGE = 4096;
const INCREMENTAL = 2;

/** Sequelize opens one more connection for each transaction on SQLite and offers no hook to set it up: this is one. */
function tuneConnections(sequelize: Sequelize, limitBytes: number): void {
	const manager = sequelize.connectionManager as unknown as { getConnection(options: object): Promise<Connection> };
	const original = manager.getConnection.bind(manager);
	manager.getConnection = async (options) => {
		const connection = await original(options);
		if (!connection.tuned) {
			connection.tuned = true;
			connection.configure('busyTimeout', 5000);
			const limit = limitBytes ? `PRAGMA max_page_count=${Math.ceil(limitBytes / PAGE)};` : '';
			await new Promise<void>((resolve, reject) =>
				connection.exec(`PRAGMA synchronous=NORMAL; PRAGMA foreign_keys=ON; ${limit}`, (error) =>
					error ? reject(error) : resolve()
				)
			);
		}
		return connection;
	};
}

type Statement = string | { query: string };
const textOfStatement = (sql: Statement): string => (typeof sql === 'string' ? sql : sql.query);
/** Whether a statement may change the database, and so needs the lock of the one writer. */
const writes = (sql: Statement): boolean => !/^\s*(SELECT|PRAGMA|EXPLAIN)\b/i.test(textOfStatement(sql));

/**
 * One writer at a time, first come, first served. SQLite lets those that wait for a lock look again now and then: a
 * single statement beside a row of transactions would find it taken each time, hold up every reading behind it, and
 * give up.
 */
function writeInTurn(sequelize: Sequelize): void {
	type Act = (transaction: Transaction) => Promise<unknown>;
	type Query = (sql: Statement, options?: { transaction?: Transaction | null }) => Promise<unknown>;
	const transact = sequelize.transaction.bind(sequelize) as (act: unknown) => Promise<unknown>;
	const query = sequelize.query.bind(sequelize) as Query;
	const within = new AsyncLocalStorage<{ open: boolean }>();
	let last: Promise<unknown> = Promise.resolve();
	const inTurn = <T>(work: () => Promise<T>): Promise<T> => {
		// it would wait for what waits for it
		if (within.getStore()?.open) throw new Error('a write within a transaction is part of it');
		const next = last.then(work);
		last = next.catch(() => {});
		return next;
	};
	const transactInTurn = (act: Act) => {
		const state = { open: true };
		return inTurn(() => within.run(state, () => transact(act).finally(() => (state.open = false))));
	};
	// what the library asks for by itself stands within another one
	sequelize.transaction = ((act: Act | object) =>
		typeof act === 'function' ? transactInTurn(act as Act) : transact(act)) as unknown as typeof sequelize.transaction;
	sequelize.query = (async (sql, options) => {
		// a statement ends there for SQLite, and nothing has such a name
		if (textOfStatement(sql).includes('\0'))
			throw new HeronError('request.notFound', { what: 'what has a NUL in its name' });
		if (options?.transaction || !writes(sql)) return query(sql, options);
		return inTurn(() => query(sql, options));
	}) as Query as typeof sequelize.query;
	const close = sequelize.close.bind(sequelize);
	// what was begun is written to its end
	sequelize.close = () => last.then(close);
}

/** The database engine, which has a native part: a package that is optional, and is not needed to run collections. @throws HeronError store.missing */
function native(): object {
	try {
		return createRequire(import.meta.url)('sqlite3') as object;
	} catch (cause) {
		throw new HeronError('store.missing', { detail: textOf(cause).split('\n')[0]! }, { cause });
	}
}

/** Turns what the database says into what people can act on. */
export function storeError(error: unknown): HeronError {
	if (error instanceof HeronError) return error;
	const detail = textOf(error);
	const blocked = /SQLITE_(READONLY|FULL|IOERR|CANTOPEN|BUSY|LOCKED|PERM)/.test(detail);
	return new HeronError(blocked ? 'store.readOnly' : 'store.failed', { detail }, { cause: error });
}

/**
 * Opens the database of a file, making it when it is not there, and brings it up to date.
 * @param limitBytes the size it may grow to; 0 for what the disk allows
 * @throws HeronError store.*
 */
export async function openDatabase(file: string, limitBytes = 0): Promise<Sequelize> {
	try {
		mkdirSync(dirname(file), { recursive: true });
		const sequelize = new Sequelize({
			dialect: 'sqlite',
			dialectModule: native(),
			storage: file,
			logging: false,
			// each connection waits five seconds for a lock by itself: trying it five times would be half a minute
			retry: { max: 1 },
			// a transaction that first reads and then writes would fail at once when another one writes
			transactionType: Transaction.TYPES.IMMEDIATE
		});
		tuneConnections(sequelize, limitBytes);
		writeInTurn(sequelize);
		// what is removed gives its room back; a database from before is written anew for that, once
		const [{ auto_vacuum: shrinks } = { auto_vacuum: 0 }] = await sequelize.query<{ auto_vacuum: number }>(
			'PRAGMA auto_vacuum',
			{ type: QueryTypes.SELECT }
		);
		if (shrinks !== INCREMENTAL) {
			await sequelize.query(`PRAGMA auto_vacuum=${INCREMENTAL}`);
			await sequelize.query('VACUUM');
		}
		await sequelize.query('PRAGMA journal_mode=WAL');
		// what is recorded is its owner's alone; the files beside it take after it
		for (const path of [file, `${file}-wal`, `${file}-shm`]) if (existsSync(path)) chmodSync(path, 0o600);
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
