import { HeronError, textOf } from '../errors.ts';
import type { Json, JsonObject } from '../model/json.ts';
import type { CallSpec } from '../model/step.ts';
import type { ReplyView } from '../model/view.ts';
import type { Workspace } from '../project/index.ts';
import type { Redactor } from '../redact/index.ts';
import type { Evaluator, Names, Scope } from '../values/index.ts';
import type { RowRef, StepResult } from './events.ts';
import type { StartNames } from './plan.ts';
import type { PreparedRequest, Ports, Session } from './ports.ts';
import type { Marked } from './prepare.ts';
import { rowNames } from './rows.ts';

/** What a scenario's steps kept and nobody reads, by the step as results name it. */
export interface HiddenValues {
	kept: Record<string, KeptTokens>;
	/** Ends the hiding of each value. */
	release: (() => void)[];
}

/** Values of a step that are secrets, and stand in no result. */
export interface KeptTokens {
	/** When the step began that kept them, in milliseconds since 1970. */
	at: number;
	values: JsonObject;
}

/** What a scenario knows while it runs: it can be kept, so that single steps can be sent later on. */
export interface Memory {
	outputs: Record<string, JsonObject>;
	/** Variables that `set` steps set. */
	set: JsonObject;
	session: Session;
	/** What was sent last, and what came back: scripts look at it. */
	last?: { request: PreparedRequest; view: ReplyView };
	/** Calls that steps have received: `stand-in id`. */
	received?: Set<string>;
	/** Tokens that steps kept: hidden as long as the scenario goes on. */
	hidden?: HiddenValues;
	/** Files that steps kept, by the paths by which later ones name them. */
	files?: Map<string, Uint8Array>;
}

/** What a scenario remembers at its beginning. */
export const emptyMemory = (ports: Ports): Memory => ({ outputs: {}, set: {}, session: ports.openSession() });

/** What steps of a run are carried out with. */
export interface StepContext {
	workspace: Workspace;
	start: StartNames;
	ports: Ports;
	evaluator: Evaluator;
	redactor: Redactor;
	environment: string;
	agent: string;
	signal: AbortSignal | undefined;
	/** Single steps are sent by hand. */
	byHand?: boolean;
	/** The row that the scenario runs with. */
	row?: RowRef;
	/** The pass of a step that repeats. */
	pass?: RowRef;
	/** Where to note which pieces of a request were filled in. */
	marked?: Marked;
	/** The calls of scenarios that lead here: what their steps are told apart by, and the place of the outermost. */
	within?: { prefix: string; index: number; depth: number };
	/** Below which folder files are kept: of a scenario that is called, the one of the step that calls it. */
	folder?: string;
	/** Carries out the scenario that the step calls; steps that are not sent within a run call nothing. */
	call?: (spec: CallSpec, result: StepResult, context: StepContext) => Promise<void>;
	/** Told in words how far a step that takes long has come. */
	progress?: (text: string) => void;
}

/** The default of an input; null when it cannot be computed: what asks for it says why. */
export async function inputDefault(value: Json, evaluator: Evaluator, scope: Scope): Promise<Json> {
	try {
		return await evaluator.deep(value, scope);
	} catch {
		return null;
	}
}

/** The scope of a step: what the run started with, what steps set and kept. */
export function scopeOf(
	{ start, ports, pass, redactor }: Pick<StepContext, 'start' | 'ports' | 'pass' | 'redactor'>,
	memory: Memory
): Scope {
	const names: Names = { ...start.names, steps: memory.outputs };
	if (pass) names.row = rowNames(pass);
	if (Object.keys(memory.set).length > 0) names.env = { ...start.names.env, ...memory.set };
	return { names, ports: withFiles(ports, memory), hider: redactor, broken: start.broken, hint: start.hint };
}

/** Ports that find the files which steps of the scenario have kept. */
export function withFiles(ports: Ports, { files }: Memory): Ports {
	if (!files) return ports;
	const readFile = (path: string) => files.get(path) ?? ports.readFile?.(path);
	return Object.assign(Object.create(ports) as Ports, { readFile });
}

/** The folder of what a step keeps: steps, and passes of one, keep files by the same name. */
export const folderOf = (step: string, { folder = '', pass }: Pick<StepContext, 'folder' | 'pass'>): string =>
	`${folder}${step}/${pass ? `${pass.number}/` : ''}`;

/** Notes why a step could not be carried out. */
export function fail(result: StepResult, error: unknown): void {
	result.outcome = 'error';
	result.error = { code: error instanceof HeronError ? error.code : 'send.failed', message: textOf(error) };
}
