import { HeronError } from '#core/errors.ts';
import type { Callout, Store, StoredRun } from '#server/store/index.ts';
import { randomBytes } from 'node:crypto';
import { createDeliveries } from './callout-deliveries.ts';
import { heldOf, sendSigned, verdictBody } from './callout-message.ts';

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
/** Among so many runs before one is looked for that came to its end. */
const RECENT = 20;
const TEST = { event: 'test', message: 'Somebody tries whether this arrives.' };

/** Keeps who is told of verdicts, and tells them. */
export function createCallouts(
	{ callouts: store, runs, past, vault }: Pick<Store, 'callouts' | 'runs' | 'past' | 'vault'>,
	{ origin, agent, waits = WAITS_MS }: { origin: string; agent: string; waits?: readonly number[] }
): Callouts {
	const send = async (callout: Callout, body: string): Promise<string> => {
		const key = await vault.readOne(callout.project, 'callout', '', callout.id);
		return key === undefined ? 'its key cannot be read: make it anew' : sendSigned(callout, body, key, agent);
	};
	const deliveries = createDeliveries(store, send, waits);
	return {
		list: (project) => store.list(project),
		async make(given) {
			assertAddress(given.address);
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
			const { suite } = run.info;
			const wanted = (await store.list(run.project)).filter((one) => one.suite === '' || one.suite === suite);
			if (wanted.length === 0) return;
			const before = await heldBefore(past, run);
			for (const { id: callout, occasion } of wanted)
				if (isNews(occasion, heldOf(run), before))
					await store.queue(callout, verdictBody(run, before, origin), Date.now());
			deliveries.soon(0);
		},
		close: () => deliveries.close()
	};
}

/** @throws HeronError callout.* */
function assertAddress(address: string): void {
	const url = URL.canParse(address) ? new URL(address) : undefined;
	if (!url || !/^https?:$/.test(url.protocol)) throw new HeronError('callout.address', { address });
	if (url.username || url.password) throw new HeronError('callout.password');
}

/** Whether the run before held; null where there is none. */
async function heldBefore(past: Store['past'], { project, info, startedAt }: StoredRun): Promise<boolean | null> {
	const { suite, environment, branch } = info;
	const lines = await past.lines(project, { suite, environment, branch, before: startedAt }, RECENT);
	const last = lines.find(({ status }) => status !== 'running');
	if (!last) return null;
	return last.status === 'done' && (last.held ?? last.counts.failed + last.counts.errors === 0);
}

/** Whether a verdict is told on an occasion. The first one of all is news when it does not hold. */
const isNews = (occasion: Callout['occasion'], held: boolean, before: boolean | null): boolean =>
	({ each: true, held: !held, change: before === null ? !held : before !== held })[occasion];
