import { HeronError, textOf } from '#core/errors.ts';
import { parseJson, writeJson } from '#core/model/json.ts';
import type { Verdict } from '#core/gate/index.ts';
import { fileName } from '#core/model/name.ts';
import type { Suite } from '#core/documents/suite.ts';
import { batchOf, type RunBatch, type RunEvent, type RunState } from '#core/run/index.ts';
import { appendFile, copyFile, mkdtemp, rename, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { one, type Flags, type Io } from './command.ts';
import { assertFile } from './files.ts';
import { jsonLines } from './lines.ts';
import { durationOf } from './options.ts';
import { bearerOf } from './remote.ts';

/** A batch is sent after so long, or when it has grown so large. */
const EVERY_MS = 1000;
const MOST_BYTES = 2_000_000;
const MOST_RESULTS = 500;
/** So long a server may be away after the run has ended, when nothing else is said. */
const PATIENCE_MS = 60_000;
const TIMEOUT_MS = 30_000;

/** What keeps a batch from ever being taken. */
class Refused extends Error {}

/** Where runs are published, and how. */
export interface Target {
	address: string;
	headers: Record<string, string>;
}

/** @throws HeronError usage.* for what is no server, or a token that would go over the network in plain */
export function targetOf(io: Io, server: string, project: string): Target {
	if (!URL.canParse(server) || !/^https?:$/.test(new URL(server).protocol))
		throw new HeronError('usage.option', { option: 'publish', wanted: 'the address of a server', given: server });
	return {
		address: `${server.replace(/\/+$/, '')}/api/projects/${encodeURIComponent(project)}/published`,
		headers: { 'content-type': 'application/json', ...bearerOf(io.env.HERON_TOKEN, server) }
	};
}

/** Sends a batch. @throws Refused for what another try does not fix, any other error for what it may */
async function send({ address, headers }: Target, body: string): Promise<{ number: number }> {
	const reply = await fetch(address, { method: 'POST', headers, body, signal: AbortSignal.timeout(TIMEOUT_MS) });
	const text = await reply.text();
	let answer: { title?: string; number?: number } = {};
	try {
		answer = JSON.parse(text) as typeof answer;
	} catch {
		// whatever answers so is not the server, or something that stands before it
	}
	if (reply.ok && typeof answer.number === 'number') return { number: answer.number };
	const words = answer.title ?? `${reply.status} ${reply.statusText}`;
	if (reply.status >= 500 || reply.status === 429 || reply.status === 408) throw new Error(words);
	throw new Refused(reply.ok ? 'what answers there is not a Loyal Heron server' : words);
}

/**
 * The options and the environment with the server that a suite names, where the options name none. A project's file may name
 * any server: the token goes there only if HERON_TOKEN_FOR names its host, or the project itself came from it.
 */
export function publishingTo(io: Io, flags: Flags, suite: Pick<Suite, 'name' | 'publish'> | undefined): [Io, Flags] {
	const given = one(flags, 'publish');
	if (flags['no-publish'] === true) {
		if (given !== undefined) throw new HeronError('usage.publishBoth');
		return [io, flags];
	}
	if (given !== undefined || !suite?.publish) return [io, flags];
	const own = { ...flags, publish: suite.publish };
	const { host } = new URL(suite.publish);
	const from = one(flags, 'server');
	const trusted = [
		...(io.env.HERON_TOKEN_FOR ?? '').split(',').map((one) => one.trim().toLowerCase()),
		...(from !== undefined && URL.canParse(from) ? [new URL(from).host] : [])
	];
	if (!io.env.HERON_TOKEN || trusted.includes(host)) return [io, own];
	const { HERON_TOKEN: _, ...env } = io.env;
	if (flags.quiet !== true)
		io.err(
			`the suite ${suite.name} publishes to ${host}: without HERON_TOKEN, which goes there only if HERON_TOKEN_FOR=${host} says so\n`
		);
	return [{ ...io, env }, own];
}

/** How a run is published. */
interface Publication {
	target: Target;
	/** The server, as it was given. */
	server: string;
	/** A folder of its own, which is gone in the end. */
	dir: string;
	/** So long the server may be away after the run has ended. Milliseconds. */
	patience: number;
	/** Told when it is delivered. */
	say(text: string): void;
}

/**
 * Sends a run to a server while it goes on. All of it is kept in a file until it is delivered, so that nothing is lost
 * while the server is away, and memory does not grow with the run.
 */
export class Publisher {
	readonly #to: Publication;
	readonly #file: string;
	#results: Extract<RunEvent, { type: 'step' }>['result'][] = [];
	#bytes = 0;
	#from = 0;
	#last = 0;
	/** Batches that are in the file, and of these those that are delivered. */
	#written = 0;
	#delivered = 0;
	/** Where in the file the first that is not delivered begins. */
	#at = 0;
	#trouble = '';
	/** What keeps the run from being kept at all, such as a full disk: the run itself goes on. */
	#lost = '';
	#refused = false;
	#number = 0;
	#sending: Promise<void> | undefined;

	constructor(to: Publication) {
		this.#to = to;
		this.#file = join(to.dir, 'run.jsonl');
	}

	/** Takes what has happened; `state` is the run after that. */
	async take(events: readonly RunEvent[], state: RunState): Promise<void> {
		if (this.#lost) return;
		for (const event of events) {
			if (event.type !== 'step') continue;
			this.#results.push(event.result);
			this.#bytes += event.result.exchanges.reduce(
				(n, one) => n + one.requestBody.length + (one.reply?.body.length ?? 0),
				500
			);
		}
		const begins = events.some((event) => event.type === 'run');
		const due = this.#results.length > 0 && Date.now() - this.#last >= EVERY_MS;
		if (begins || due || this.#bytes > MOST_BYTES || this.#results.length >= MOST_RESULTS) await this.#write(state);
	}

	/** Sends the rest with what the gate says, waiting for a server that is away. @returns what is wrong, when it could not all be delivered */
	async end(state: RunState, gate?: Verdict): Promise<string | undefined> {
		const { dir, server, say } = this.#to;
		await this.#write(state, { gate });
		await this.#deliver();
		const clear = () => rm(dir, { recursive: true, force: true });
		if (this.#lost) {
			await clear();
			return `the result could not be published whole: it could not be kept in ${dir} (${this.#lost})`;
		}
		if (!this.#isBehind) {
			await clear();
			say(`published as run ${this.#number} at ${server}\n`);
			return undefined;
		}
		const kept = resolve(`heron-${state.run!.id.slice(0, 8)}.jsonl`);
		// it may lie on another disk
		await rename(this.#file, kept).catch(() => copyFile(this.#file, kept));
		await clear();
		return `the result could not be published (${this.#trouble || 'the server is away'}): it is in ${kept}, and heron publish sends it later`;
	}

	get #isBehind(): boolean {
		return this.#delivered < this.#written;
	}

	/** Sends what is left, again and again until it has been tried for long enough. */
	async #deliver(): Promise<void> {
		const over = Date.now() + this.#to.patience;
		for (let pause = 250; ; pause = Math.min(pause * 2, 5000)) {
			await this.#sending;
			if (this.#isBehind && !this.#refused) await this.#send();
			if (!this.#isBehind || this.#refused || Date.now() + pause > over) return;
			await wait(pause);
		}
	}

	async #write(state: RunState, end?: { gate?: Verdict | undefined }): Promise<void> {
		if (this.#lost) return;
		const batch = batchOf(state, this.#from, this.#results, end);
		this.#from += this.#results.length;
		this.#results = [];
		this.#bytes = 0;
		this.#last = Date.now();
		try {
			await appendFile(this.#file, `${writeJson(batch)}\n`);
		} catch (error) {
			this.#lost = textOf(error);
			return;
		}
		this.#written++;
		void this.#send();
	}

	/** Sends what is in the file, where nobody does so already. */
	#send(): Promise<void> {
		return (this.#sending ??= this.#drain().finally(() => (this.#sending = undefined)));
	}

	async #drain(): Promise<void> {
		for await (const line of jsonLines(this.#file, this.#at)) {
			// what stands behind those is still being written
			if (this.#refused || !this.#isBehind) return;
			try {
				({ number: this.#number } = await send(this.#to.target, line));
				this.#delivered++;
				this.#at += Buffer.byteLength(line) + 1;
				this.#trouble = '';
			} catch (error) {
				this.#trouble = textOf(error);
				if (error instanceof Refused) this.#refused = true;
				return;
			}
		}
	}
}

/** Where a run is to be published, or nothing. @throws HeronError usage.*, publish.refused */
export async function openPublisher(io: Io, flags: Flags, project: string): Promise<Publisher | undefined> {
	const server = one(flags, 'publish');
	if (server === undefined) return undefined;
	const target = targetOf(io, server, one(flags, 'as') ?? fileName(project));
	const patience = durationOf(flags, 'publish-wait') ?? PATIENCE_MS;
	await assertProject(target, server);
	const dir = await mkdtemp(join(tmpdir(), 'heron-publish-'));
	return new Publisher({ target, server, dir, patience, say: (text) => io.err(text) });
}

/** A project that the server does not have is found out before anything is sent; a server that is away may come back. */
async function assertProject({ address, headers }: Target, server: string): Promise<void> {
	const reply = await fetch(address, {
		headers,
		signal: AbortSignal.timeout(10_000)
	}).catch(() => undefined);
	if (!reply || reply.status >= 500) return;
	if (reply.ok) return;
	const { title = `${reply.status} ${reply.statusText}` } = (await reply.json().catch(() => ({}))) as {
		title?: string;
	};
	throw new HeronError('publish.refused', {
		server,
		title,
		hint: reply.status === 404 ? '. --as NAME says as which project it is published' : ''
	});
}

const MOST_FILE = 2_000_000_000;

/** `heron publish FILE`: sends a result that could not be delivered. */
export async function publish(io: Io, names: string[], flags: Flags): Promise<number> {
	const [file, ...more] = names;
	if (!file || more.length > 0) throw new HeronError('usage.publish');
	assertFile(file);
	if ((await stat(file)).size > MOST_FILE) throw new HeronError('publish.large', { file });
	let target: Target | undefined;
	const server = one(flags, 'server') ?? 'http://127.0.0.1:4680';
	let number = 0;
	let line = 0;
	for await (const text of jsonLines(file)) {
		line++;
		let batch: RunBatch;
		try {
			batch = parseJson(text) as unknown as RunBatch;
		} catch {
			throw new HeronError('publish.torn', { file, line });
		}
		if (batch?.heron !== 1 || typeof batch.run?.id !== 'string')
			throw new HeronError('publish.foreign', { file, line });
		target ??= targetOf(io, server, one(flags, 'as') ?? fileName(batch.run.project));
		try {
			({ number } = await send(target, text));
		} catch (error) {
			io.err(`heron publish: ${server} did not take line ${line}: ${textOf(error)}\n`);
			return 4;
		}
	}
	if (line === 0) throw new HeronError('publish.empty', { file });
	io.out(`published as run ${number} at ${server}; ${file} is not needed any more\n`);
	return 0;
}
