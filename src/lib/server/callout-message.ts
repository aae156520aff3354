import { textOf } from '#core/errors.ts';
import { showDuration } from '#core/model/units.ts';
import { blankRequest } from '#core/run/index.ts';
import { bytesToBase64, digestOf } from '#core/values/index.ts';
import { cryptoPort } from '#server/engine/crypto.ts';
import type { Callout, StoredRun } from '#server/store/index.ts';

const ANSWERS_WITHIN_MS = 15_000;
/** The name of the signature in its fields. */
const LABEL = 'verdict';
/** What it covers. */
const COMPONENTS = ['@method', '@target-uri', 'content-type', 'content-digest'];

/** Whether a run came to its end and its gate held; without one, whether all passed. */
export const heldOf = ({ status, gate, summary }: Pick<StoredRun, 'status' | 'gate' | 'summary'>): boolean =>
	status === 'done' && (gate?.holds ?? summary.failed + summary.errors === 0);

/** What is told of the verdict of a run, as JSON. @param before whether the one before held; null where there was none */
export function verdictBody(run: StoredRun, before: boolean | null, origin: string): string {
	const { info, summary, gate } = run;
	return JSON.stringify({
		event: 'verdict',
		project: run.project,
		suite: info.suite,
		title: info.title,
		environment: info.environment,
		branch: info.branch,
		commit: info.commit,
		job: info.job,
		build: info.build,
		...(info.link ? { link: info.link } : {}),
		run: { id: run.id, number: run.number, page: `${origin}/${run.project}/runs/${run.id}` },
		status: run.status,
		held: heldOf(run),
		before,
		failing: gate?.sentences.filter(({ holds }) => !holds).map(({ text }) => text) ?? [],
		counts: summary,
		startedAt: new Date(run.startedAt).toISOString(),
		ms: run.ms
	});
}

/** Sends a signed call. @returns why it has not arrived; empty when it has */
export async function sendSigned(
	{ id, address }: Pick<Callout, 'id' | 'address'>,
	body: string,
	key: string,
	agent: string
): Promise<string> {
	const bytes = Buffer.from(body);
	const headers: [string, string][] = [
		['Content-Type', 'application/json'],
		['Content-Digest', `sha-256=:${bytesToBase64(digestOf('sha256', bytes))}:`],
		['User-Agent', agent]
	];
	const signed = await cryptoPort.signMessage(
		{ ...blankRequest('POST', address, agent), headers, body: bytes },
		{
			...{ algorithm: 'hmac-sha256', key: { text: key, passphrase: '' }, keyId: id, components: COMPONENTS },
			...{ label: LABEL, created: Math.floor(Date.now() / 1000), nameAlgorithm: true }
		}
	);
	try {
		const answer = await fetch(address, {
			...{ method: 'POST', headers: [...headers, ...signed], body: bytes, redirect: 'manual' },
			signal: AbortSignal.timeout(ANSWERS_WITHIN_MS)
		});
		await answer.body?.cancel();
		return answer.ok ? '' : `it answered ${answer.status}`;
	} catch (error) {
		const { name, cause } = error as Error;
		return name === 'TimeoutError' ? `no answer within ${showDuration(ANSWERS_WITHIN_MS)}` : textOf(cause ?? error);
	}
}
