import { HeronError } from '#core/errors.ts';
import { LOCAL_FILE, localIn } from '#core/documents/local.ts';
import { pipelineKinds, word, type PipelineChoice } from '#core/pipeline/index.ts';
import { createRedactor } from '#core/redact/index.ts';
import { choose, secretVariable, type Verdict } from '#core/run/index.ts';
import { bytesToBase64, decodeText } from '#core/values/index.ts';
import { spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import { mkdir, mkdtemp, readdir, readFile, rm, stat, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { OpenProject } from './projects.ts';

/** Something that a first build would stumble over, and what fixes it. */
interface PracticeFinding {
	kind: 'secret' | 'local' | 'address' | 'history';
	text: string;
	fix: string;
}
/** What a first build would say. */
export interface Practice {
	script: string;
	findings: PracticeFinding[];
	/** The exit code; null when it was ended. */
	code: number | null;
	ms: number;
	/** What it wrote, secrets masked; cut at its beginning. */
	output: string;
	/** Files that the build would keep. */
	artifacts: { name: string; size: number; base64?: string }[];
	gate?: Verdict;
}

const LIMIT_MS = 10 * 60_000;
const MOST_OUTPUT = 100_000;
const MOST_ARTIFACT = 2_000_000;
const LOOPBACK = /^[a-z]+:\/\/(localhost|127(\.\d+){3}|\[::1\])(:|\/|$)/i;

/** The command that was built together with this server. */
function commandFile(): string {
	for (let dir = dirname(fileURLToPath(import.meta.url)); ; dir = dirname(dir)) {
		const file = join(dir, 'dist/cli.js');
		if (existsSync(file)) return file;
		if (dir === dirname(dir))
			throw new HeronError('server.failed', { detail: 'the command is not built: npm run build' });
	}
}

/** What is here, and would not be there. */
function practiceFindings(
	{ workspace }: OpenProject,
	choice: PipelineChoice,
	secrets: Readonly<Record<string, string>>
): PracticeFinding[] {
	const { environment } = choice;
	const known = workspace.environments.get(environment);
	const findings: PracticeFinding[] = [];
	for (const name of known?.secrets ?? []) {
		if (Object.hasOwn(secrets, name)) continue;
		findings.push({
			kind: 'secret',
			text: `the secret ${name} has no value here`,
			fix: `on the build server it is ${secretVariable(name)}; for practice give it a value under Values`
		});
	}
	const local = localIn(workspace.local, environment);
	const shared = { ...workspace.project.variables, ...known?.variables };
	for (const name of Object.keys(local))
		findings.push({
			kind: 'local',
			text: Object.hasOwn(shared, name)
				? `${name} has another value on this machine (${LOCAL_FILE})`
				: `${name} has a value on this machine alone (${LOCAL_FILE})`,
			fix: `what the build gets stands in environments/${environment}.yaml or heron.yaml`
		});
	for (const [name, value] of Object.entries(shared))
		if (typeof value === 'string' && LOOPBACK.test(value))
			findings.push({
				kind: 'address',
				text: `${name} is ${value}, which only this machine knows`,
				fix: `give it another value in environments/${environment}.yaml, or start that service in the build, too`
			});
	const { gate } = workspace.suites.get(choice.suite)!;
	if (gate.newFailures !== undefined)
		findings.push({
			kind: 'history',
			text: 'a first build has no earlier runs: all that fails counts as new',
			fix: 'let what is known be in quarantine, or the first build through by hand'
		});
	return findings;
}

/**
 * Carries out the script of a suite as a build server would: a checkout of the project's files, an environment of its own, no
 * terminal. Nothing is published.
 * @param secrets those that the build server's store would hold, by name
 * @throws HeronError practice.*, request.notFound for a suite or an environment that is not there, or a folder that leads out
 */
export async function practise(
	project: OpenProject,
	choice: PipelineChoice,
	secrets: Readonly<Record<string, string>>,
	signal: AbortSignal
): Promise<Practice> {
	assertFits(project, choice);
	const shell = pipelineKinds.find(({ key }) => key === 'shell')!;
	const needed = Object.entries(secrets).map(([name, value]) => [secretVariable(name), value]);
	const script = shell.write({
		...choice,
		...{ install: ':', publish: '', server: '', revision: '', shards: 1 },
		reports: [...new Set([...choice.reports, 'json' as const])]
	});
	const redactor = createRedactor(secrets);
	const dir = await mkdtemp(join(tmpdir(), 'heron-practice-'));
	try {
		const root = join(dir, 'checkout');
		const bin = join(dir, 'bin');
		await checkOut(project, join(root, choice.folder));
		await mkdir(bin);
		await writeFile(join(bin, 'heron'), `#!/bin/sh\nexec ${word(process.execPath)} ${word(commandFile())} "$@"\n`, {
			mode: 0o755
		});
		const began = Date.now();
		const { code, output } = await carryOut(script, root, signal, {
			PATH: `${bin}:${process.env.PATH ?? '/usr/bin:/bin'}`,
			HOME: dir,
			TMPDIR: dir,
			CI: 'true',
			JOB_NAME: 'practice',
			BUILD_NUMBER: '1',
			...Object.fromEntries(needed)
		});
		const ms = Date.now() - began;
		const { artifacts, gate } = await readArtifacts(join(root, 'out'));
		const shown = redactor.text(output).replaceAll(dir, '…');
		return {
			...{ script, code, ms, artifacts },
			findings: practiceFindings(project, choice, secrets),
			output: shown.length > MOST_OUTPUT ? `…${shown.slice(-MOST_OUTPUT)}` : shown,
			...(gate ? { gate } : {})
		};
	} finally {
		await rm(dir, { recursive: true, force: true });
	}
}

/** @throws HeronError practice.*, request.notFound */
function assertFits({ workspace }: OpenProject, choice: PipelineChoice): void {
	if (process.platform === 'win32') throw new HeronError('practice.shell');
	if (!workspace.suites.has(choice.suite)) choose(workspace, { targets: [choice.suite] });
	if (choice.environment && !workspace.environments.has(choice.environment))
		throw new HeronError('request.notFound', { what: `the environment "${choice.environment}"` });
	if ((choice.folder !== '.' && !/^[^/\\][^\\]*$/.test(choice.folder)) || choice.folder.split('/').includes('..'))
		throw new HeronError('practice.folder', { folder: choice.folder });
}

/** Writes the files of a project as they are committed. */
async function checkOut({ files }: OpenProject, root: string): Promise<void> {
	for (const { path, bytes } of files.values()) {
		if (path === LOCAL_FILE) continue;
		const file = join(root, path);
		await mkdir(dirname(file), { recursive: true });
		await writeFile(file, bytes);
	}
}

/** What a build left in its folder of results. */
async function readArtifacts(folder: string): Promise<Pick<Practice, 'artifacts' | 'gate'>> {
	const artifacts: Practice['artifacts'] = [];
	let gate: Verdict | undefined;
	for (const name of existsSync(folder) ? (await readdir(folder)).sort() : []) {
		const { size } = await stat(join(folder, name));
		const bytes = size <= MOST_ARTIFACT ? await readFile(join(folder, name)) : undefined;
		artifacts.push({ name, size, ...(bytes ? { base64: bytesToBase64(bytes) } : {}) });
		// what stands behind the steps is the last line
		if (name === 'result.json' && bytes) gate = gateIn(decodeText(bytes).text);
	}
	return { artifacts, ...(gate ? { gate } : {}) };
}

function gateIn(result: string): Verdict | undefined {
	try {
		return (JSON.parse(result) as { gate?: Verdict }).gate;
	} catch {
		return undefined;
	}
}

/** Runs a script in a group of its own, so that all that it started ends with it. */
function carryOut(
	script: string,
	cwd: string,
	signal: AbortSignal,
	env: Record<string, string>
): Promise<{ code: number | null; output: string }> {
	return new Promise((resolve, reject) => {
		const child = spawn('sh', ['-c', script], { cwd, env, detached: true, stdio: ['ignore', 'pipe', 'pipe'] });
		let output = '';
		const hear = (data: Buffer) => {
			output = (output + data.toString('utf8')).slice(-4 * MOST_OUTPUT);
		};
		child.stdout.on('data', hear);
		child.stderr.on('data', hear);
		const end = () => {
			try {
				process.kill(-child.pid!, 'SIGTERM');
				setTimeout(() => child.exitCode === null && process.kill(-child.pid!, 'SIGKILL'), 5000).unref();
			} catch {
				// it has ended already
			}
		};
		const late = setTimeout(end, LIMIT_MS);
		signal.addEventListener('abort', end, { once: true });
		if (signal.aborted) end();
		child.once('error', reject);
		child.once('close', (code) => {
			clearTimeout(late);
			signal.removeEventListener('abort', end);
			resolve({ code, output });
		});
	});
}
