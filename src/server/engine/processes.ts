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

/** A process of its own that carries out jobs for one project: what it does to itself is felt by nobody else. */
export interface Carrier {
	readonly project: string;
	readonly alive: boolean;
	/** Milliseconds since 1970 at which it was last given something to do. */
	readonly usedAt: number;
	/**
	 * Takes it for a project.
	 * @param silent milliseconds for which it may compute without answering
	 */
	take(
		project: string,
		silent: number,
		hears: { message(message: FromWorker): void; ended(reason: string): void }
	): void;
	/** Hands over what changed in the project since the last time. */
	tell(snapshot: Snapshot): void;
	send(message: ToWorker): void;
	/** Whether it is waited for: one that has nothing to do is not asked how it is. */
	watch(busy: boolean): void;
	end(reason?: string): void;
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

/** Starts a process. It ends when this one does. */
export function startCarrier(limits: ProcessLimits): Carrier {
	const env = Object.fromEntries(PASSED_ON.flatMap((name) => (process.env[name] ? [[name, process.env[name]]] : [])));
	const child: ChildProcess = spawn(
		process.execPath,
		[`--max-old-space-size=${limits.heap}`, '--disable-warning=ExperimentalWarning', '-'],
		{
			env: { ...env, HERON_XML_LIBRARY: XML_LIBRARY },
			stdio: ['pipe', 'ignore', 'pipe', 'ipc'],
			serialization: 'advanced'
		}
	);
	let [project, usedAt, alive, stderr, busy, begun] = ['', Date.now(), true, '', false, false];
	let silentFor = 0;
	/** How often it was asked since it answered, and the processor time that it had used at the first time. */
	let unanswered = 0;
	let cpuBefore: number | undefined;
	let hears: Parameters<Carrier['take']>[2] | undefined;
	// what it has of the project, by path
	const known = new Map<string, unknown>();

	const over = (reason: string): void => {
		if (!alive) return;
		alive = false;
		clearInterval(timer);
		child.kill('SIGKILL');
		hears?.ended(reason);
	};
	const timer = setInterval(() => {
		if (!busy) return void (unanswered = 0);
		// counted in looks, however late each is: a machine that slept, or this process at work, is no silence of the other
		const reason = tooSilent(unanswered * PING_EVERY_MS);
		if (reason) return over(reason);
		if (unanswered++ === 0) cpuBefore = cpuOf(child.pid);
		send({ type: 'ping' });
	}, PING_EVERY_MS);
	const tooSilent = (waited: number): string | undefined => {
		if (!begun) return waited < BEGINS_WITHIN_MS ? undefined : `it did not begin within ${BEGINS_WITHIN_MS / 1000} s`;
		if (waited < silentFor) return undefined;
		if (waited >= silentFor * STARVED) return `it did not answer for ${Math.round(waited / 1000)} s`;
		const cpu = cpuOf(child.pid);
		const computed = cpu === undefined || cpuBefore === undefined ? waited : cpu - cpuBefore;
		return computed < silentFor
			? undefined
			: `it computed for more than ${Math.round(silentFor / 1000)} s without a pause`;
	};
	timer.unref();
	const send = (message: ToWorker): void => {
		// one that has just ended tells so by itself
		if (alive) child.send(message, () => {});
	};
	child.stdin!.on('error', () => {});
	child.stdin!.end(source);
	child.stderr!.setEncoding('utf8').on('data', (text: string) => (stderr = (stderr + text).slice(-STDERR_KEPT)));
	child.on('error', (error) => over(`it could not be started: ${error.message}`));
	child.on('message', (message: FromWorker) => {
		unanswered = 0;
		begun = true;
		if (message.type !== 'pong') return hears?.message(message);
		if (message.memory > limits.whole * 1e6) over(`it needs more memory than it may use (${limits.whole} MB)`);
	});
	// its last words come before `close`, not before `exit`
	child.on('close', (code, signal) => over(reasonOf(code, signal, stderr, limits)));
	const rest = (): void => {
		child.unref();
		child.channel?.unref();
		for (const stream of [child.stdin, child.stderr]) (stream as unknown as { unref?(): void } | null)?.unref?.();
	};
	rest();

	return {
		get project() {
			return project;
		},
		get alive() {
			return alive;
		},
		get usedAt() {
			return usedAt;
		},
		take(name, silent, listener) {
			project = name;
			silentFor = silent;
			hears = listener;
		},
		tell(snapshot) {
			const documents = snapshot.documents.filter(({ path, value }) => known.get(path) !== value);
			const files = snapshot.files.filter(({ path, bytes }) => known.get(path) !== bytes);
			const here = new Set([...snapshot.documents, ...snapshot.files].map(({ path }) => path));
			const gone = [...known.keys()].filter((path) => !here.has(path));
			if (known.size > 0 && documents.length + files.length + gone.length === 0) return;
			for (const { path, value } of documents) known.set(path, value);
			for (const { path, bytes } of files) known.set(path, bytes);
			for (const path of gone) known.delete(path);
			send({ type: 'project', project, documents, files, gone });
		},
		send(message) {
			usedAt = Date.now();
			send(message);
		},
		watch(on) {
			if (on && !busy) unanswered = 0;
			busy = on;
			// while somebody waits for it, it keeps this process alive
			if (on) child.channel?.ref();
			else child.channel?.unref();
		},
		end: (reason = 'it was ended') => over(reason)
	};
}
