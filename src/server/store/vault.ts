import { HeronError, textOf } from '#core/errors.ts';
import { createCipheriv, createDecipheriv, createHash, hkdfSync, randomBytes, scryptSync } from 'node:crypto';
import { chmodSync, existsSync, mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { RevealRow, SealedRow } from './tables/index.ts';

/** The key that the vault is locked with. */
export interface VaultKey {
	id: string;
	bytes: Buffer;
}

const KEY_BYTES = 32;

/** A key of 32 bytes in hexadecimal or base64, or a long enough phrase. @throws HeronError vault.keyFile */
export function keyFrom(text: string): VaultKey {
	const given = text.trim();
	let raw: Buffer | undefined;
	if (/^[0-9a-f]{64}$/i.test(given)) raw = Buffer.from(given, 'hex');
	else if (/^[A-Za-z0-9+/]{43}=$/.test(given)) raw = Buffer.from(given, 'base64');
	else if (given.length >= 16)
		raw = scryptSync(given, 'loyal-heron vault', KEY_BYTES, { N: 2 ** 15, r: 8, p: 1, maxmem: 64 * 2 ** 20 });
	if (raw?.length !== KEY_BYTES)
		throw new HeronError('vault.keyFile', {
			detail: 'it is 32 bytes in hexadecimal or base64, or a phrase of at least 16 letters'
		});
	const bytes = Buffer.from(hkdfSync('sha256', raw, '', 'loyal-heron vault 1', KEY_BYTES));
	return { bytes, id: createHash('sha256').update('id').update(bytes).digest('hex').slice(0, 12) };
}

/** The key of a file that only its owner can read; made when it is not there. @throws HeronError vault.keyFile */
export function keyOfFile(file: string): VaultKey {
	try {
		if (!existsSync(file)) {
			mkdirSync(dirname(file), { recursive: true });
			writeFileSync(file, `${randomBytes(KEY_BYTES).toString('hex')}\n`, { mode: 0o600, flag: 'wx' });
		}
		if ((statSync(file).mode & 0o077) !== 0) {
			chmodSync(file, 0o600);
			console.error(`the key of the vault, ${file}, could be read by others: its permissions are tightened`);
		}
		return keyFrom(readFileSync(file, 'utf8'));
	} catch (cause) {
		if (cause instanceof HeronError) throw cause;
		throw new HeronError('vault.keyFile', { detail: textOf(cause) }, { cause });
	}
}

/** AES-256-GCM: nonce, tag, ciphertext. What it is for is authenticated with it, so that rows cannot be swapped. */
function seal(key: VaultKey, about: string, text: string): Buffer {
	const nonce = randomBytes(12);
	const cipher = createCipheriv('aes-256-gcm', key.bytes, nonce).setAAD(Buffer.from(about));
	const sealed = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()]);
	return Buffer.concat([nonce, cipher.getAuthTag(), sealed]);
}

function unseal(key: VaultKey, about: string, bytes: Buffer): string | undefined {
	try {
		const cipher = createDecipheriv('aes-256-gcm', key.bytes, bytes.subarray(0, 12))
			.setAAD(Buffer.from(about))
			.setAuthTag(bytes.subarray(12, 28));
		return Buffer.concat([cipher.update(bytes.subarray(28)), cipher.final()]).toString('utf8');
	} catch {
		return undefined;
	}
}

export type SealedKind = 'secret' | 'token';

export interface SealedFacts {
	/** Empty for all environments. */
	environment: string;
	name: string;
	updatedAt: number;
	/** Whether the key opens it. */
	readable: boolean;
}

/** What must not be read by whoever reads the database. */
export interface Vault {
	write(project: string, kind: SealedKind, environment: string, name: string, text: string): Promise<void>;
	remove(project: string, kind: SealedKind, environment: string, name: string): Promise<void>;
	/** What there is, without values. */
	list(project: string, kind: SealedKind): Promise<SealedFacts[]>;
	/** Values that the key opens, of one environment over those of all. */
	read(project: string, kind: SealedKind, environment: string): Promise<Record<string, string>>;
	/** A value for somebody's eyes; that it was shown is kept. @throws HeronError request.notFound, vault.key */
	reveal(project: string, environment: string, name: string): Promise<string>;
	reveals(project: string): Promise<{ environment: string; name: string; at: number }[]>;
}

export function createVault(key: VaultKey): Vault {
	const about = (project: string, kind: string, environment: string, name: string) =>
		JSON.stringify([project, kind, environment, name]);
	const open = (row: SealedRow): string | undefined =>
		row.keyId === key.id ? unseal(key, about(row.project, row.kind, row.environment, row.name), row.bytes) : undefined;
	return {
		async write(project, kind, environment, name, text) {
			await SealedRow.upsert({
				project,
				kind,
				environment,
				name,
				keyId: key.id,
				bytes: seal(key, about(project, kind, environment, name), text)
			});
		},
		async remove(project, kind, environment, name) {
			await SealedRow.destroy({ where: { project, kind, environment, name } });
		},
		async list(project, kind) {
			const rows = await SealedRow.findAll({ where: { project, kind }, order: ['name', 'environment'], raw: true });
			return rows.map((row) => ({
				environment: row.environment,
				name: row.name,
				updatedAt: new Date(row.updatedAt).getTime(),
				readable: open(row) !== undefined
			}));
		},
		async read(project, kind, environment) {
			const rows = await SealedRow.findAll({
				where: { project, kind, environment: [...new Set(['', environment])] },
				order: ['environment'],
				raw: true
			});
			const values: Record<string, string> = {};
			for (const row of rows) {
				const value = open(row);
				if (value !== undefined) values[row.name] = value;
			}
			return values;
		},
		async reveal(project, environment, name) {
			const row = await SealedRow.findOne({ where: { project, kind: 'secret', environment, name }, raw: true });
			if (!row) throw new HeronError('request.notFound', { what: `the secret ${name}` });
			const value = open(row);
			if (value === undefined) throw new HeronError('vault.key', { count: '1 secret' });
			await RevealRow.create({ project, environment, name, at: Date.now() });
			return value;
		},
		async reveals(project) {
			const rows = await RevealRow.findAll({ where: { project }, order: [['at', 'DESC']], limit: 100, raw: true });
			return rows.map(({ environment, name, at }) => ({ environment, name, at }));
		}
	};
}
