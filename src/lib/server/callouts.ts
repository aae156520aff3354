import { HeronError, textOf } from '#core/errors.ts';
import { counted } from '#core/messages.ts';
import { showDuration } from '#core/model/units.ts';
import { blankRequest } from '#core/run/index.ts';
import { bytesToBase64, digestOf } from '#core/values/index.ts';
import { cryptoPort } from '#server/engine/crypto.ts';
import type { Callout, Delivery, Store, StoredRun } from '#server/store/index.ts';
import { randomBytes } from 'node:crypto';

// Others are told of verdicts: a POST whose body is signed (RFC 9421, RFC 9530), tried again while nobody answers.

export interface Callouts {
	list(project: string): Promise<Callout[]>;
	/** @returns the key that calls are signed with, which is told this once @throws HeronError callout.* */
	make(given: Pick<Callout, 'project' | 'suite' | 'address' | 'occasion'>): Promise<Callout & { key: string }>;
	remove(project: string, id: string): Promise<void>;
	/** Sends something now, to see whether it arrives. @throws HeronError request.notFound */
	tryOut(project: string, id: string): Promise<Callout>;
	/** A run has ended: who wants to know is told. */
	ended(run: string): Promise<void>;
	close(): void;
}

const WAITS_MS = [10_000, 60_000, 300_000, 1_800_000, 7_200_000];
const ANSWERS_WITHIN_MS = 15_000;
const AT_ONCE = 20;
/** Among so many runs before one is looked for that came to its end. */
const RECENT = 20;
/** The name of the signature in its fields. */
const LABEL = 'verdict';
/** What it covers. */
const COMPONENTS = ['@method', '@target-uri', 'content-type', 'content-digest'];
const TEST = { event: 'test', message: 'Somebody tries whether this arrives.' };

const heldOf = ({ gate, summary }: Pick<StoredRun, 'gate' | 'summary'>): boolean =>
	gate?.holds ?? summary.failed + summary.errors === 0;

export function createCallouts(
	{ callouts: store, runs, past, vault }: Pick<Store, 'callouts' | 'runs' | 'past' | 'vault'>,
	{ origin, agent, waits = WAITS_MS }: { origin: string; agent: string; waits?: readonly number[] }
): Callouts {
	let timer: NodeJS.Timeout | undefined;
	let closed = false;
	/** One time after the other; what comes while it works is looked for once more. */
	let working: Promise<void> = Promise.resolve();

	const send = async (callout: Callout, body: string): Promise<string> => {
		const key = await vault.readOne(callout.project, 'callout', '', callout.id);
		if (key === undefined) return 'its key cannot be read: make it anew';
		const bytes = Buffer.from(body);
		const headers: [string, string][] = [
			['Content-Type', 'application/json'],
			['Content-Digest', `sha-256=:${bytesToBase64(digestOf('sha256', bytes))}:`],
			['User-Agent', agent]
		];
		const signed = await cryptoPort.signMessage(
			{ ...blankRequest('POST', callout.address, agent), headers, body: bytes },
			{
				...{ algorithm: 'hmac-sha256', key: { text: key, passphrase: '' }, keyId: callout.id, components: COMPONENTS },
				...{ label: LABEL, created: Math.floor(Date.now() / 1000), nameAlgorithm: true }
			}
		);
		try {
			const answer = await fetch(callout.address, {
				...{ method: 'POST', headers: [...headers, ...signed], body: bytes, redirect: 'manual' },
				signal: AbortSignal.timeout(ANSWERS_WITHIN_MS)
			});
			await answer.body?.cancel();
			return answer.ok ? '' : `it answered ${answer.status}`;
		} catch (error) {
			const { name, cause } = error as Error;
			return name === 'TimeoutError' ? `no answer within ${showDuration(ANSWERS_WITHIN_MS)}` : textOf(cause ?? error);
		}
	};
	const deliver = async (one: Delivery): Promise<void> => {
		const callout = await store.get(one.callout);
		if (!callout) return store.done(one.id);
		const trouble = await send(callout, one.body);
		const at = Date.now();
		const wait = waits[one.tries];
		if (trouble === '' || wait === undefined) {
			const words = trouble === '' ? 'arrived' : `given up after ${counted(one.tries + 1, 'try', 'tries')}: ${trouble}`;
			await store.note(callout.id, at, words);
			return store.done(one.id);
		}
		await store.note(callout.id, at, `${trouble}; the next try is in ${showDuration(wait)}`);
		await store.later(one.id, one.tries + 1, at + wait);
	};
	const work = async (): Promise<void> => {
		while (!closed) {
			const due = await store.due(Date.now(), AT_ONCE);
			if (due.length === 0) break;
			await Promise.all(due.map(deliver));
		}
		const next = closed ? undefined : await store.nextAt();
		if (next !== undefined) later(Math.max(0, next - Date.now()));
	};
	const later = (ms: number): void => {
		clearTimeout(timer);
		if (closed) return;
		timer = setTimeout(() => {
			working = working.then(work).catch((error: unknown) => {
				if (closed) return;
				console.error(`verdicts could not be told: ${textOf(error)}`);
				later(60_000);
			});
		}, ms).unref();
	};
	// what was left when the server was stopped
	later(1000);

	const bodyOf = (run: StoredRun, before: boolean | null): string => {
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
	};
	return {
		list: (project) => store.list(project),
		async make(given) {
			if (!URL.canParse(given.address) || !/^https?:$/.test(new URL(given.address).protocol))
				throw new HeronError('callout.address', { address: given.address });
			const { username, password } = new URL(given.address);
			if (username || password) throw new HeronError('callout.password');
			const made = await store.make(given);
			const key = randomBytes(32).toString('base64url');
			await vault.write(given.project, 'callout', '', made.id, key);
			return { ...made, key };
		},
		async remove(project, id) {
			await store.remove(project, id);
			await vault.remove(project, 'callout', '', id);
		},
		async tryOut(project, id) {
			const callout = await store.get(id);
			if (callout?.project !== project) throw new HeronError('request.notFound', { what: 'this address' });
			const trouble = await send(callout, JSON.stringify({ ...TEST, project }));
			await store.note(id, Date.now(), trouble === '' ? 'arrived' : trouble);
			return (await store.get(id))!;
		},
		async ended(id) {
			const run = await runs.get(id);
			if (!run || run.kind !== 'run' || run.status === 'running' || !run.info.suite) return;
			const { suite, environment, branch } = run.info;
			const wanted = (await store.list(run.project)).filter((one) => one.suite === '' || one.suite === suite);
			if (wanted.length === 0) return;
			const earlier = { suite, environment, branch, before: run.startedAt };
			const last = (await past.lines(run.project, earlier, RECENT)).find(({ status }) => status === 'done');
			const before = last ? (last.held ?? last.counts.failed + last.counts.errors === 0) : null;
			const held = heldOf(run);
			for (const { id: callout, occasion } of wanted) {
				// the first one of all is news when it does not hold
				const isWanted = { each: true, held: !held, change: before === null ? !held : before !== held }[occasion];
				if (isWanted) await store.queue(callout, bodyOf(run, before), Date.now());
			}
			later(0);
		},
		close() {
			closed = true;
			clearTimeout(timer);
		}
	};
}
