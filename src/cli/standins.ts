import { HeronError, textOf } from '#core/errors.ts';
import { counted } from '#core/messages.ts';
import { writeJson, type JsonObject } from '#core/model/json.ts';
import { readSecrets } from '#server/engine/index.ts';
import type { CallRecord } from '#core/stand-in/index.ts';
import { startStandIns, type StandInsNow } from '#server/engine/stand-in/index.ts';
import { createWriteStream, existsSync } from 'node:fs';
import { once } from 'node:events';
import { join, resolve } from 'node:path';
import { startStandins } from '../../standins/index.ts';
import { one, type Flags, type Io } from './command.ts';
import { environmentOf, listProblems, openProject } from './project.ts';
import { refusedIn } from './refused.ts';
import type { ProjectFolder } from '#server/engine/index.ts';

/** `heron standins`: those of a project, or of the demo where there is none; runs until it is interrupted. */
export async function standins(io: Io, names: string[], flags: Flags): Promise<number> {
	const dir = resolve(one(flags, 'project') ?? '.');
	const ofProject = flags.demo !== true && (flags.project !== undefined || existsSync(join(dir, 'heron.yaml')));
	if (!ofProject && names.length > 0) throw new HeronError('usage.standInProject', { name: names[0]! });
	return ofProject ? startOfProject(io, names, flags) : startOfDemo(io, flags);
}

function portIn(flags: Flags): number | undefined {
	const text = one(flags, 'port');
	if (text === undefined) return undefined;
	const port = Number(text);
	if (!Number.isInteger(port) || port < 0 || port > 65_000)
		throw new HeronError('usage.option', { option: 'port', wanted: 'a port', given: text });
	return port;
}

/** Resolves when the process is asked to end: listened for before it is said that they run. */
const asked = (): Promise<void> =>
	new Promise((resolve) => {
		for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => resolve());
	});

async function startOfDemo(io: Io, flags: Flags): Promise<number> {
	let running: Awaited<ReturnType<typeof startStandins>>;
	try {
		running = await startStandins(portIn(flags) ?? 4681);
	} catch (cause) {
		if (cause instanceof HeronError) throw cause;
		throw new HeronError('usage.standInPort', { detail: textOf(cause) }, { cause });
	}
	const ended = asked();
	for (const { name, address } of running.list) io.out(`${name.padEnd(22)} ${address}\n`);
	io.err('Ctrl+C ends them.\n');
	await ended;
	await running.close();
	return 0;
}

/** Writes calls to a file as they come, one a line. @throws HeronError output.failed */
async function openLog(file: string | undefined): Promise<{ take(call: CallRecord): void; close(): Promise<void> }> {
	if (file === undefined) return { take: () => {}, close: () => Promise.resolve() };
	const stream = createWriteStream(file);
	try {
		await once(stream, 'open');
	} catch (cause) {
		throw new HeronError('usage.unwritable', { what: `the log ${file}`, detail: textOf(cause) }, { cause });
	}
	stream.on('error', () => {});
	return {
		take: (call) => void stream.write(`${writeJson(call)}\n`),
		close: () => new Promise((resolve) => stream.end(() => resolve()))
	};
}

async function startOfProject(io: Io, names: string[], flags: Flags): Promise<number> {
	const folder = openProject(flags);
	const { workspace } = folder;
	if (workspace.standIns.size === 0) throw new HeronError('usage.noStandIns');
	const environment = environmentOf(folder, one(flags, 'env') ?? workspace.project.environment);
	const secrets = readSecrets(io.env, workspace.environments.get(environment)?.secrets ?? [], one(flags, 'secrets'));
	const log = await openLog(one(flags, 'log'));
	const port = portIn(flags);
	let running: StandInsNow;
	try {
		running = await startStandIns({
			...{ workspace, readFile: folder.readFile, data: folder.data, names, environment, secrets, set: {} },
			...(port === undefined ? {} : { port }),
			...(flags.fault === undefined ? {} : { faults: flags.fault as string[] }),
			onCall(call) {
				log.take(call);
				if (flags.quiet !== true) io.out(`${callLine(call)}\n`);
			}
		});
	} catch (error) {
		await log.close();
		throw error;
	}
	const ended = asked();
	const own = workspace.warnings.filter(({ file }) => file.startsWith('stand-ins/'));
	listProblems(
		io,
		[
			...own,
			...(await refusedIn(
				folder,
				running.list.map((one) => one.service()),
				{ environment: environment !== '', secrets }
			))
		],
		'worth a look: '
	);
	for (const { spec, address } of running.list) {
		const faults = running.list
			.find((one) => one.spec === spec)!
			.service()
			.faults();
		const on = faults.length > 0 ? `  faults: ${faults.map(({ name, words }) => `${name} (${words})`).join('; ')}` : '';
		io.out(`${spec.name.padEnd(22)} ${address}${on}\n`);
	}
	io.err('Ctrl+C ends them.\n');
	await ended;
	await running.close();
	await log.close();
	return 0;
}

/** A call in one line: when, what, and by which answer. */
export function callLine({
	at,
	standIn,
	method,
	target,
	status,
	by,
	ms,
	faults,
	calledBack,
	sent
}: CallRecord): string {
	const time = new Date(at).toISOString().slice(11, 23);
	const how =
		sent !== undefined
			? `sent by itself (${sent})`
			: calledBack
				? 'called back'
				: by === ''
					? 'no answer fits'
					: `by ${by}`;
	const wrong = faults.length > 0 ? `, fault: ${faults.join('; ')}` : '';
	return `${time} ${standIn}  ${method} ${target}  ${status || 'nothing'} ${how}${wrong}  ${ms < 1 ? '<1' : Math.round(ms)} ms`;
}

/**
 * Starts what an environment has answered by stand-ins, for a run of this process.
 * @throws HeronError usage.* where there are none
 */
export async function standInsOf(
	io: Io,
	folder: ProjectFolder,
	order: {
		names: readonly string[];
		environment: string;
		secrets: Record<string, string>;
		set: JsonObject;
		log: string | undefined;
	}
): Promise<Pick<StandInsNow, 'addresses' | 'close'>> {
	const { workspace } = folder;
	const stoodIn = Object.values(workspace.environments.get(order.environment)?.standIns ?? {});
	const named = [...new Set([...stoodIn, ...order.names])];
	if (named.length === 0 && workspace.standIns.size === 0) throw new HeronError('usage.withStandIns');
	const log = await openLog(order.log);
	let count = 0;
	const running = await startStandIns({
		...{ workspace, readFile: folder.readFile, data: folder.data, names: named },
		...{ environment: order.environment, secrets: order.secrets, set: order.set },
		// the ports of files are for people: a build takes what is free
		port: 0,
		onCall(call) {
			count++;
			log.take(call);
		}
	});
	io.err(`started: ${running.list.map(({ spec, address }) => `${spec.name} at ${address}`).join(', ')}\n`);
	return {
		addresses: running.addresses,
		async close() {
			await running.close();
			await log.close();
			io.err(`stand-ins answered ${counted(count, 'call')}\n`);
		}
	};
}
