import { textOf } from '#core/errors.ts';
import { memorySource } from '../index.ts';
import type { StandInProgress } from '../protocol.ts';
import type { CallRecord } from '#core/stand-in/index.ts';
import { startStandIns } from '../stand-in/index.ts';
import { files, type Handler, post, runningIn, workspaceNow } from './context.ts';

const POST_EVERY_MS = 100;
export const renewals = new Map<string, (environment: string) => Promise<void>>();
const filesNow = () => {
	const here = new Map(files);
	return { workspace: workspaceNow(), readFile: (path: string) => here.get(path), data: memorySource(here) };
};

/** Runs until it is cancelled. */
export const standIn: Handler<'standIn'> = async (job, _, stop) => {
	const { name, environment, faults } = job.order;
	const tell = (progress: StandInProgress) => post({ type: 'progress', id: job.id, ...progress });
	let waiting: CallRecord[] = [];
	let timer: NodeJS.Timeout | undefined;
	const flush = () => {
		timer = undefined;
		const calls = waiting;
		waiting = [];
		const service = running.list[0]!.service();
		tell({ calls, now: { counts: service.counts(), stores: service.stores(), faults: service.faults() } });
	};
	const soon = () => (timer ??= setTimeout(flush, POST_EVERY_MS));
	const running = await startStandIns({
		...filesNow(),
		...{ names: [name], environment, secrets: job.sealed.secrets, set: runningIn(job) },
		...(faults.length > 0 ? { faults } : {}),
		onCall(call) {
			waiting.push(call);
			soon();
		},
		onChange: soon
	});
	tell({ address: running.addresses[name]! });
	soon();
	renewals.set(job.id, async (environment) => {
		try {
			await running.renew({ ...filesNow(), environment });
			tell({ renewed: '' });
			soon();
		} catch (error) {
			const { problems = [] } = error as { problems?: { message: string }[] };
			tell({ renewed: problems[0]?.message ?? textOf(error) });
		}
	});
	if (!stop.signal.aborted)
		await new Promise((resolve) => stop.signal.addEventListener('abort', resolve, { once: true }));
	renewals.delete(job.id);
	clearTimeout(timer);
	await running.close();
	return null;
};
