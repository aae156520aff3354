import type { DefinitionBrief, MadeStep, MissingStep } from '#core/coverage/index.ts';
import type { Coverage } from '#core/tallies/index.ts';
import type { DefinitionPlan } from '#core/model/definition-plan.ts';
import type { OperationView } from '#core/model/operation-view.ts';
import type { GivenFile } from '#core/soap/index.ts';
import type { FlowView, LegKey, Token, Trace, VectorVerdict } from '#core/auth/index.ts';
import type { CheckResult } from '#core/checks/index.ts';
import type { Column, DataRow, MadeColumn } from '#core/datasets/index.ts';
import type { Problem } from '#core/errors.ts';
import type { Json, JsonObject } from '#core/model/json.ts';
import type { HeaderList, Reply } from '#core/model/reply.ts';
import type { ReachReport, Stage } from '#core/reach/index.ts';
import type {
	Exchange,
	HeaderOrigin,
	KeptTokens,
	Pieces,
	PreparedRequest,
	RehearsedStep,
	RowsChoice,
	RunEvent,
	RunInfo
} from '#core/run/index.ts';
import type { Recorded } from '#core/exchange/index.ts';
import type { RecordedAnswers, Remembered, Tried, Refusal } from '#core/stand-in/index.ts';
import type { ReachOrder } from './reach/index.ts';
import type { CallRecord } from '#core/stand-in/index.ts';

/** A project as it is handed to the worker. */
export interface Snapshot {
	project: string;
	documents: { path: string; value: Json }[];
	files: { path: string; bytes: Uint8Array }[];
}

/** What must not leave the server, for one environment. */
export interface Sealed {
	secrets: Record<string, string>;
	tokens: { credential: string; token: Token }[];
	/** Addresses of the stand-ins that run, by their names. */
	standIns?: Record<string, string>;
}

/** What a scenario knew when it last ran, for steps that are sent by hand. It holds secrets, and leaves no process but for another one. */
export interface StoredMemory {
	outputs: Record<string, JsonObject>;
	set: JsonObject;
	cookies: unknown[];
	/** Tokens that steps kept, by the step as results name it. */
	kept: Record<string, KeptTokens>;
	/** What was sent last, and what came back; left out when it is large. */
	last?: { request: PreparedRequest; reply: Reply };
	/** Files that steps kept, by the paths by which later ones name them; left out when they are large. */
	files?: Map<string, Uint8Array>;
}

/** What steps of a scenario kept when they last ran, for when nobody knows it any more: step → outputs. */
export type Outputs = Record<string, JsonObject>;

export interface RunOrder {
	/** For steps that are sent by hand. */
	outputs: Outputs;
	/** Another dataset, or other rows, than scenarios name. */
	rows: RowsChoice;
	targets: string[];
	only: string[];
	environment: string;
	set: JsonObject;
	parallel: number;
	stopAfter: number;
	/** How often a scenario that did not pass is run again. */
	retries: number;
	info: RunInfo;
}

interface PreviewOrder {
	outputs: Outputs;
	collection: string;
	scenario: string;
	/** The step as it stands on the screen. */
	step: Json;
	environment: string;
	/** The number of the row that it is looked at with. */
	row: number;
}

/** Checks and kept values to be tried on an answer that is here. */
interface JudgeOrder extends PreviewOrder {
	exchange: Exchange;
}
export interface JudgeAnswer {
	checks: CheckResult[];
	kept: JsonObject;
	/** The operation of an OpenAPI document that the call is one of. */
	operation?: string;
}

/** A piece of a dataset. */
interface DatasetOrder {
	/** `rows:` as it stands on the screen. */
	rows: Json;
	from: number;
	count: number;
	environment: string;
}
export interface DatasetAnswer {
	file: string;
	columns: Column[];
	delimiter?: string;
	notes: string[];
	/** How many rows it has. */
	count: number;
	/** How many of them are chosen, and the first of their numbers. */
	chosen: number;
	numbers: number[];
	rows: DataRow[];
	/** Cells of these rows are shown hidden, as they hold a secret: they are not what the file says. */
	hidden: boolean;
}

/** A table to be made up. */
interface MakeOrder {
	columns: MadeColumn[];
	count: number;
	seed: number;
	environment: string;
}

/** A request as it will be sent, secrets masked. */
/** A schema of a body of JSON or of a form by itself, and where it is from. */
export interface BodySchema {
	file: string;
	/** `POST /bookings` of an OpenAPI document; empty for a schema that the step names. */
	operation: string;
	schema: JsonObject;
	/** How parts of a form are written, by their names. */
	encoding: JsonObject;
}

export interface Preview {
	method: string;
	url: string;
	headers: HeaderList;
	origins: HeaderOrigin[];
	body: Uint8Array;
	/** Whose credential it bears and who says so. */
	credential: { name: string; label: string; from: string };
	/** What will be added when it is sent and cannot be known before. */
	later?: string;
	/** Which pieces were filled in, and where they are from. */
	pieces: Pieces;
	/** What in it is not as its definition has it; left out where it fits, and where no definition knows it. */
	unfit?: string[];
}

/** Scenarios to go through without sending. */
interface RehearseOrder {
	targets: string[];
	environment: string;
	rows: RowsChoice;
	/** At most so many steps are told of. */
	most: number;
}
export interface RehearseAnswer {
	steps: RehearsedStep[];
	/** There are more than were told of. */
	more: boolean;
}

/** An expression to be tried; with the outputs and the row of a scenario when one is named. */
interface TryOrder {
	/** A bare expression, or a text with expressions in it. */
	text: string;
	environment: string;
	outputs: Outputs;
	/** `collection/scenario`. */
	scenario?: string;
	row?: number;
}
interface TryAnswer {
	value?: Json;
	/** Why it gives nothing. */
	trouble?: string;
}

interface RecipeOrder {
	/** The credential as it stands on the screen. */
	name: string;
	value: JsonObject;
	environment: string;
	/** The step whose request it signs; none: the test vector's. */
	step?: { collection: string; scenario: string; step: string };
	outputs: Outputs;
}

export interface RecipeAnswer {
	/** The request that it was computed for, in short. */
	request: string;
	trace?: Trace;
	trouble?: string;
	vector?: VectorVerdict;
	vectorTrouble?: string;
}

export type FlowOrder = { environment: string } & (
	| { action: 'start'; credential: string; redirect: string }
	| { action: 'act'; flow: string; leg: LegKey }
	| { action: 'view'; flow: string }
	| { action: 'callback'; params: string; flow?: string }
);
export type FlowAnswer = FlowView & { flow: string; credential: string };

export interface WireError {
	code: string;
	message: string;
	values: Record<string, string | number>;
	problems: Problem[];
}

/** A stand-in in numbers. */
export interface StandInState {
	counts: Record<string, number>;
	stores: Record<string, number>;
	faults: { name: string; words: string }[];
}

/** A request that is made up, for a stand-in that need not run. */
interface AskOrder {
	name: string;
	/** Its file as it stands on the screen. */
	value: Json;
	environment: string;
	/** A call of its own that is looked at, in place of an answer; empty for none. */
	call: string;
	request: { method: string; target: string; headers: HeaderList; body: string };
	/** What the one that runs remembers. */
	remembered?: Remembered;
}
export interface AskAnswer {
	status: number;
	headers: HeaderList;
	/** Text, in pieces: which expression gave each. */
	body: { text: string; fill?: number }[];
	/** Expressions with what they gave. */
	values: { source: string; value: string }[];
	path: Record<string, string>;
	by: string;
	tried: Tried[];
	faults: string[];
	notes: string[];
	drift: string[];
	/** Whether it stands for a definition, and so was held against it. */
	held: boolean;
	forwarded?: string;
	calls: { after: number; method: string; url: string; headers: HeaderList; body: string; error?: string }[];
	ms: number;
}

/** What is asked of the worker, and what it answers. */
export interface Jobs {
	run: { order: RunOrder; answer: null };
	preview: { order: PreviewOrder; answer: Preview };
	/** What a document of the project says of an operation; null where there is none. */
	operation: { order: { file: string; operation: string }; answer: OperationView | null };
	/** What is known of the JSON body of a step; null where nothing is. */
	bodySchema: { order: { collection: string; step: Json }; answer: BodySchema | null };
	/** Checks and kept values on an answer that is here; nothing is sent. */
	judge: { order: JudgeOrder; answer: JudgeAnswer };
	rehearse: { order: RehearseOrder; answer: RehearseAnswer };
	/** What an expression gives. */
	try: { order: TryOrder; answer: TryAnswer };
	/** What a dataset holds, or what is wrong with it. */
	dataset: { order: DatasetOrder; answer: DatasetAnswer };
	/** Rows that are made up. */
	make: { order: MakeOrder; answer: JsonObject[] };
	/** A definition from an address, with all that it imports. */
	definition: {
		order: { address: string; name: string; connection: string; environment: string; others: boolean };
		answer: { files: GivenFile[]; missing: { address: string; detail: string }[] };
	};
	/** What definitions that are brought would change; packed ones are taken apart. */
	import: {
		order: {
			files: GivenFile[];
			name: string;
			/** Nobody chose the name. */
			unnamed?: boolean;
			connection: string;
			address: string;
			environment: string;
			/** Keys of the scenarios that are made; left out: those that suggest themselves. */
			choose?: readonly string[];
			/** Keys of the changes of steps that are made. */
			fix?: readonly string[];
		};
		answer: DefinitionPlan[];
	};
	resolve: { order: { environment: string }; answer: { problems: Problem[]; values: JsonObject } };
	reach: { order: ReachOrder; answer: ReachReport };
	recipe: { order: RecipeOrder; answer: RecipeAnswer };
	flow: { order: FlowOrder; answer: FlowAnswer };
	/** A stand-in, until it is cancelled; it tells where it is, and each call. */
	standIn: { order: { name: string; environment: string; faults: string[] }; answer: null };
	/** Answers of what was recorded: of an HTTP Archive, or of exchanges; of the origin with most calls when none is named. */
	recorded: {
		order: { environment: string; har?: string; calls?: Recorded[]; origin: string; base: string };
		answer: RecordedAnswers & { origin: string; origins: { origin: string; calls: number }[] };
	};
	/** What a stand-in as it stands on the screen would answer. */
	askStandIn: { order: AskOrder; answer: AskAnswer };
	/** A request that the definition has for an entry of a stand-in; null where it knows none. */
	madeUp: {
		order: { name: string; value: Json; environment: string; entry: number };
		answer: { method: string; target: string; headers: HeaderList; body: string } | null;
	};
	/** What the steps of the project touch of its definitions, by its files or by what was carried out. */
	coverage: { order: { environment: string; made?: MadeStep[] }; answer: Coverage };
	/** The definitions of the project, and who calls what of them. */
	operations: { order: { environment: string }; answer: DefinitionBrief[] };
	/** A step that would touch what nobody touches; null where there is no such thing. */
	missingSteps: { order: { file: string; operation: string; points: string[] }; answer: (MissingStep | null)[] };
	/** What of a stand-in's answers cannot be as it is written. */
	refused: { order: { name: string; value: Json; environment: string }; answer: Refusal[] };
}
export type JobName = keyof Jobs;
/** What a job tells while it goes on. */
export type Progress = { events: RunEvent[] } | { stage: Stage } | StandInProgress;
export type StandInProgress =
	| { address: string }
	| { calls: CallRecord[]; now: StandInState }
	/** The files were read anew, or why not. */
	| { renewed: string };

export type Job<N extends JobName = JobName> = {
	[K in N]: {
		type: K;
		id: string;
		project: string;
		sealed: Sealed;
		order: Jobs[K]['order'];
		agent: string;
		/** Of the scenarios that the order speaks of, by `collection/scenario`. */
		memories: Record<string, StoredMemory>;
	};
}[N];

export type ToWorker =
	| Job
	| { type: 'cancel'; id: string }
	/** What changed in the project since the last time. */
	| ({ type: 'project'; gone: string[] } & Snapshot)
	| { type: 'token'; environment: string; credential: string; token: Token | undefined }
	| { type: 'forget'; environment: string; credential: string }
	/** A stand-in is to go on by the files as they are now. */
	| { type: 'renew'; id: string; environment: string }
	/** So many messages of progress are done with. */
	| { type: 'took'; id: string; messages: number }
	| { type: 'ping' };

export type FromWorker =
	| ({ type: 'progress'; id: string } & Progress)
	| { type: 'done'; id: string; answer: Jobs[JobName]['answer'] }
	| { type: 'failed'; id: string; error: WireError }
	| { type: 'token'; environment: string; credential: string; token: Token | undefined }
	| { type: 'memory'; id: string; environment: string; scenario: string; memory: StoredMemory }
	/** Octets of memory that it uses. */
	| { type: 'pong'; memory: number };
