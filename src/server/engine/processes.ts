import { createRequire } from 'node:module';
import { spawn, type ChildProcess } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { pathToFileURL } from 'node:url';
import type { FromWorker, Snapshot, ToWorker } from './protocol.ts';
import source from './worker.ts?nodeworker';

/** What a process may use before it is ended from outside. */
export interface ProcessLimits {
	/** Megabytes of memory: of the language's own, and of all of it. */
	heap: number;
	whole: number;
}

// a program that comes by standard input finds no packages by name
const XML_LIBRARY = pathToFileURL(createRequire(import.meta.url).resolve('libxml2-wasm')).href;
const PING_EVERY_MS = 2000;
/** As long as a process may take to begin: on a busy machine that is no fault of its project. */
const BEGINS_WITHIN_MS = 120_000;
/** On a busy machine a process gets but a part of a processor: it may be silent for so many times as long. */
const STARVED = 5;
const STDERR_KEPT = 4000;
/** A unit of the processor times in /proc, in milliseconds. */
const TICK_MS = 10;
/** What a process is given of our environment: no secret is among it. */
const PASSED_ON = [
	...['PATH', 'HOME', 'TZ', 'LANG', 'LC_ALL', 'LC_CTYPE', 'TMPDIR', 'TEMP', 'SystemRoot'],
	...['NODE_EXTRA_CA_CERTS', 'SSL_CERT_FILE', 'SSL_CERT_DIR', 'OPENSSL_CONF']
];

function reasonOf(code: number | null, signal: string | null, stderr: string, { heap }: ProcessLimits): string {
	if (
		/heap out of memory|allocation failed|invalid (array|string|table) (length|size)/i.test(stderr) ||
		signal === 'SIGABRT'
	)
		return `it needs more memory than it may use (${heap} MB)`;
	return `it ended by itself (${signal ?? `exit ${code}`})`;
}

/** The processor time that a process has used, in milliseconds; undefined where the system does not tell (proc_pid_stat(5)). */
function cpuOf(pid: number | undefined): number | undefined {
	try {
		const stat = readFileSync(`/proc/${pid}/stat`, 'latin1');
		// the name of the program may hold anything
		const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
		return (Number(fields[11]) + Number(fields[12])) * TICK_MS;
	} catch {
		return undefined;
	}
}

/** What is heard from a process. */
interface Hears {
	message(message: FromWorker): void;
	ended(reason: string): void;
}

/** A process of its own that carries out jobs for one project: what it does to itself is felt by nobody else. It ends when this one does. */
export class Carrier {
	readonly #limits: ProcessLimits;
	readonly #child: ChildProcess;
	readonly #timer: NodeJS.Timeout;
	#project = '';
	#usedAt = Date.now();
	#alive = true;
	#stderr = '';
	#busy = false;
	#begun = false;
	/** Milliseconds for which it may compute without answering. */
	#silentFor = 0;
	/** How often it was asked since it answered, and the processor time that it had used at the first time. */
	#unanswered = 0;
	#cpuBefore: number | undefined;
	#hears: Hears | undefined;
	/** What it has of the project, by path. */
	readonly #known = new Map<string, unknown>();

	constructor(limits: ProcessLimits) {
		const env = Object.fromEntries(PASSED_ON.flatMap((name) => (process.env[name] ? [[name, process.env[name]]] : [])));
		this.#limits = limits;
		this.#child = spawn(
			process.execPath,
			[`--max-old-space-size=${limits.heap}`, '--disable-warning=ExperimentalWarning', '-'],
			{
				env: { ...env, HERON_XML_LIBRARY: XML_LIBRARY },
				stdio: ['pipe', 'ignore', 'pipe', 'ipc'],
				serialization: 'advanced'
			}
		);
		this.#timer = setInterval(() => this.#look(), PING_EVERY_MS).unref();
		this.#listen();
	}

	get project(): string {
		return this.#project;
	}
	get alive(): boolean {
		return this.#alive;
	}
	/** Milliseconds since 1970 at which it was last given something to do. */
	get usedAt(): number {
		return this.#usedAt;
	}

	/**
	 * Takes it for a project.
	 * @param silent milliseconds for which it may compute without answering
	 */
	take(project: string, silent: number, hears: Hears): void {
		this.#project = project;
		this.#silentFor = silent;
		this.#hears = hears;
	}

	/** Hands over what changed in the project since the last time. */
	tell(snapshot: Snapshot): void {
		const known = this.#known;
		const documents = snapshot.documents.filter(({ path, value }) => known.get(path) !== value);
		const files = snapshot.files.filter(({ path, bytes }) => known.get(path) !== bytes);
		const here = new Set([...snapshot.documents, ...snapshot.files].map(({ path }) => path));
		const gone = [...known.keys()].filter((path) => !here.has(path));
		if (known.size > 0 && documents.length + files.length + gone.length === 0) return;
		for (const { path, value } of documents) known.set(path, value);
		for (const { path, bytes } of files) known.set(path, bytes);
		for (const path of gone) known.delete(path);
		this.#send({ type: 'project', project: this.#project, documents, files, gone });
	}

	send(message: ToWorker): void {
		this.#usedAt = Date.now();
		this.#send(message);
	}

	/** Whether it is waited for: one that has nothing to do is not asked how it is. */
	watch(busy: boolean): void {
		if (busy && !this.#busy) this.#unanswered = 0;
		this.#busy = busy;
		// while somebody waits for it, it keeps this process alive
		if (busy) this.#child.channel?.ref();
		else this.#child.channel?.unref();
	}

	end(reason = 'it was ended'): void {
		if (!this.#alive) return;
		this.#alive = false;
		clearInterval(this.#timer);
		this.#child.kill('SIGKILL');
		this.#hears?.ended(reason);
	}

	#listen(): void {
		const child = this.#child;
		child.stdin!.on('error', () => {});
		child.stdin!.end(source);
		child
			.stderr!.setEncoding('utf8')
			.on('data', (text: string) => (this.#stderr = (this.#stderr + text).slice(-STDERR_KEPT)));
		child.on('error', (error) => this.end(`it could not be started: ${error.message}`));
		child.on('message', (message: FromWorker) => this.#heard(message));
		// its last words come before `close`, not before `exit`
		child.on('close', (code, signal) => this.end(reasonOf(code, signal, this.#stderr, this.#limits)));
		child.unref();
		child.channel?.unref();
		for (const stream of [child.stdin, child.stderr]) (stream as unknown as { unref?(): void } | null)?.unref?.();
	}

	#heard(message: FromWorker): void {
		this.#unanswered = 0;
		this.#begun = true;
		if (message.type !== 'pong') return this.#hears?.message(message);
		const { whole } = this.#limits;
		if (message.memory > whole * 1e6) this.end(`it needs more memory than it may use (${whole} MB)`);
	}

	#send(message: ToWorker): void {
		// one that has just ended tells so by itself
		if (this.#alive) this.#child.send(message, () => {});
	}

	#look(): void {
		if (!this.#busy) return void (this.#unanswered = 0);
		// counted in looks, however late each is: a machine that slept, or this process at work, is no silence of the other
		const reason = this.#tooSilent(this.#unanswered * PING_EVERY_MS);
		if (reason) return this.end(reason);
		if (this.#unanswered++ === 0) this.#cpuBefore = cpuOf(this.#child.pid);
		this.#send({ type: 'ping' });
	}

	/** Why it is waited for no longer; undefined while it is. @param waited milliseconds */
	#tooSilent(waited: number): string | undefined {
		if (!this.#begun)
			return waited < BEGINS_WITHIN_MS ? undefined : `it did not begin within ${BEGINS_WITHIN_MS / 1000} s`;
		const limit = this.#silentFor;
		if (waited < limit) return undefined;
		if (waited >= limit * STARVED) return `it did not answer for ${Math.round(waited / 1000)} s`;
		const cpu = cpuOf(this.#child.pid);
		const computed = cpu === undefined || this.#cpuBefore === undefined ? waited : cpu - this.#cpuBefore;
		return computed < limit ? undefined : `it computed for more than ${Math.round(limit / 1000)} s without a pause`;
	}
}
