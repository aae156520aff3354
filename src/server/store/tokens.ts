import { HeronError } from '#core/errors.ts';
import { createHash, randomBytes, randomUUID } from 'node:crypto';
import { QueryTypes, type Sequelize } from 'sequelize';

/** publish: results of runs go in; read: what runs and files say comes out; both of them; start: suites are started. */
export const MAY = ['publish', 'read', 'both', 'start'] as const;
export type May = (typeof MAY)[number];

export interface TokenFacts {
	id: string;
	name: string;
	may: May;
	/** Milliseconds since 1970. */
	createdAt: number;
	endsAt: number;
	/** When it was last shown; 0 for never. */
	usedAt: number;
}

/** What somebody may do who shows a token. */
export interface Grant {
	project: string;
	may: May;
}

export interface TokenStore {
	/** @returns the token, which is told this once, and its facts */
	make(project: string, given: { name: string; may: May; endsAt: number }): Promise<TokenFacts & { token: string }>;
	list(project: string): Promise<TokenFacts[]>;
	/** @throws HeronError request.notFound */
	remove(project: string, id: string): Promise<void>;
	/** What a token grants; undefined when it is none, has ended or was revoked. */
	grantOf(token: string, now?: number): Promise<Grant | undefined>;
}

/** By this a token of a project is told from others, also by programs that look for secrets in texts. */
export const TOKEN_MARK = 'heron_';
/** When it was last used is kept to the minute. */
const USED_MS = 60_000;

// a token has 256 bits of chance: a digest of it needs no salt
const digest = (token: string): string => createHash('sha256').update(token).digest('hex');

export function createTokenStore(sequelize: Sequelize): TokenStore {
	const select = <T extends object>(sql: string, bind: unknown[]) =>
		sequelize.query<T>(sql, { bind, type: QueryTypes.SELECT });
	return {
		async make(project, { name, may, endsAt }) {
			const token = TOKEN_MARK + randomBytes(32).toString('base64url');
			const facts = { id: randomUUID(), name, may, createdAt: Date.now(), endsAt, usedAt: 0 };
			await sequelize.query(
				`INSERT INTO tokens (id, project, name, may, hash, createdAt, endsAt, usedAt) VALUES ($1, $2, $3, $4, $5, $6, $7, 0)`,
				{ bind: [facts.id, project, name, may, digest(token), facts.createdAt, endsAt] }
			);
			return { ...facts, token };
		},
		list: (project) =>
			select<TokenFacts>(
				'SELECT id, name, may, createdAt, endsAt, usedAt FROM tokens WHERE project = $1 ORDER BY createdAt DESC',
				[project]
			),
		async remove(project, id) {
			const gone = await select('DELETE FROM tokens WHERE project = $1 AND id = $2 RETURNING id', [project, id]);
			if (gone.length === 0) throw new HeronError('request.notFound', { what: 'this token' });
		},
		async grantOf(token, now = Date.now()) {
			if (!token.startsWith(TOKEN_MARK)) return undefined;
			const [found] = await select<Grant & { id: string; endsAt: number; usedAt: number }>(
				`SELECT tokens.id, tokens.project, tokens.may, tokens.endsAt, tokens.usedAt FROM tokens
				JOIN projects ON projects.name = tokens.project AND projects.removedAt IS NULL WHERE tokens.hash = $1`,
				[digest(token)]
			);
			if (!found || found.endsAt <= now) return undefined;
			if (now - found.usedAt > USED_MS)
				await sequelize
					.query('UPDATE tokens SET usedAt = $1 WHERE id = $2', { bind: [now, found.id] })
					// a database that cannot be written says so where it matters
					.catch(() => {});
			return { project: found.project, may: found.may };
		}
	};
}
