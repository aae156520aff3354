// What crosses between the server and the pages: types only, so that no page reaches into the server.
import type { Comparison } from '#core/compare/index.ts';
import type { DefinitionPlan } from '#core/model/definition-plan.ts';
import type { DefinitionProblem, SoapOperation } from '#core/soap/index.ts';
import type { ChangeSpan } from '#core/diff/index.ts';
import type { DatasetAnswer as DatasetRead } from '#server/engine/protocol.ts';
import type { ShownClock } from '$lib/server/clocks.ts';
import type { Waiting } from '$lib/server/starting.ts';
import type { Mark, RunLine, RunStatus, StoredRun } from '#server/store/index.ts';

export type {
	StoredAnswer,
	StoredBody,
	StoredExchange,
	StoredReply,
	StoredRun,
	StoredStep,
	RunLine,
	RunStatus,
	StepMoment,
	TokenFacts
} from '#server/store/index.ts';
export type { Callout, Occasion } from '#server/store/index.ts';
export type { LiveEvent } from '$lib/server/runs.ts';
export type { FirstView, ResultPage, RowPage } from '$lib/server/run-pages.ts';
export type { TallyEvent } from '$lib/server/run-tally.ts';
export type { ShownWire } from '$lib/server/wire.ts';
export type { Practice } from '$lib/server/practice.ts';
export type { RehearsalAnswer } from '$lib/server/rehearsal.ts';
export type { ShownExchange } from '$lib/server/exchanges.ts';
export type { BodySchema, AskAnswer, RecipeAnswer } from '#server/engine/protocol.ts';
export type { CallRecord, Refusal } from '#core/stand-in/index.ts';
export type { RunningStandIn } from '$lib/server/stand-in-live.ts';
export type { StandInEvent } from '$lib/server/stand-ins.ts';

/** A file of a project; its size in bytes. */
export interface FileFacts {
	path: string;
	size: number;
}

/** A piece of a dataset, and the revision of its file that was read. */
export type DatasetAnswer = DatasetRead & { revision: number };

/** A page of runs, and what they can be filtered by. */
export interface RunHistory {
	runs: RunLine[];
	/** There are older ones. */
	more: boolean;
	/** Suites that wait to be run, the next one first. */
	waiting: string[];
	facets: { suites: string[]; environments: string[]; branches: string[] };
}

/** Two runs side by side, and others that could stand there. */
export type ComparedRuns = Comparison & { before: StoredRun; after: StoredRun; offered: RunLine[] };

/** The definitions of a project. */
export type DefinitionList = {
	file: string;
	/** Why it cannot be read. */
	error?: string;
	/** Where it was fetched from. */
	source?: { name: string; address: string; connection: string };
	problems: DefinitionProblem[];
	operations: Pick<SoapOperation, 'key' | 'name' | 'service' | 'version' | 'style' | 'doc' | 'wants'>[];
}[];

/** What an import does, or would do. */
/** How scenarios stand, by `collection/scenario`; one that never ran is not there. */
export type ScenarioStates = Record<
	string,
	{
		outcome: 'passed' | 'failed' | 'error';
		/** Steps that did not pass. */
		bad: number;
		/** The first of them. */
		first?: string;
		/** Steps that have a result, of those that are not off. */
		steps: number;
		of: number;
		/** Of all their newest results together. */
		ms: number;
		/** When the newest run of one began, in milliseconds since 1970. */
		at: number;
	}
>;

/** Where a project's folder stands in version control. */
export interface ProjectVersion {
	/** Empty when no branch is checked out. */
	branch: string;
	/** Empty before the first commit. */
	commit: string;
	/** `merge` or `rebase`, while one is not at its end. */
	unfinished: string;
	/** Files of the project that differ from the commit. */
	count: number;
	/** The first of them, documents with what differs in words. */
	changed: FileDifference[];
}

/** How a file differs from what it was. */
export interface FileDifference {
	path: string;
	change: 'new' | 'changed' | 'gone' | 'conflict';
	/** Of a document: in words. */
	differences: string[];
	/** Of a collection: its scenarios and steps that are others, by `scenario` and `scenario/step`. */
	steps: Record<string, 'new' | 'changed'>;
}

/** What was written to a project, the newest first. */
export interface ChangeHistory {
	spans: ChangeSpan[];
	/** There are older ones. */
	more: boolean;
	marks: Mark[];
	/** The number of the newest change. */
	newest: number;
}
/** Two changes of a project side by side. */
export interface ComparedChanges {
	/** Files that differ. */
	count: number;
	/** The first of them. */
	changed: FileDifference[];
}

/** A file as it was committed, and as it is; empty where it was not, or is not. */
export interface VersionTexts {
	before: string;
	now: string;
}

/** The projects of the server. */
export interface ProjectList {
	projects: {
		name: string;
		title: string;
		collections: number;
		/** The newest run. */
		last?: Pick<StoredRun, 'id' | 'number' | 'status' | 'summary' | 'startedAt'>;
	}[];
	/** Those that can be brought back; since when, in milliseconds since 1970. */
	removed: { name: string; removedAt: number }[];
}

/** A file that was written: its revision now, and the one before, 0 where there was none. */
export interface WrittenFile {
	path: string;
	revision: number;
	was: number;
}

export interface ImportPlan {
	plans: (Omit<DefinitionPlan, 'files' | 'writes'> & { files: string[] })[];
	/** Imports that could not be fetched. */
	missing: { address: string; detail: string }[];
	/** What was written, where it was. */
	written?: WrittenFile[];
}

/** When suites run by the clock, and what waits to be run. */
export interface ProjectClocks {
	clocks: ShownClock[];
	waiting: Waiting[];
	/** How many wait in all, those of other projects too. */
	ahead: number;
}

/** What became of a suite that was started from elsewhere. */
export type StartedRun = {
	run: string;
	/** Where this is told. */
	at: string;
	/** The page of the run. */
	page: string;
} & (
	| { state: 'waiting'; place: number }
	| { state: 'running'; number?: number }
	| { state: 'refused'; why: string }
	| {
			state: 'ended';
			number: number;
			status: RunStatus;
			/** Whether the gate lets it through; a run that did not come to its end is not let through. */
			held: boolean;
			/** Conditions of the gate that do not hold. */
			failing: string[];
			counts: StoredRun['summary'];
	  }
);

/** A place of a project that was found by its words. */
export interface FoundPlace {
	kind: 'collection' | 'scenario' | 'step';
	text: string;
	more: string;
	collection: string;
	scenario?: string;
	step?: string;
}

/** A collection as lists show it. */
export interface CollectionBrief {
	name: string;
	title: string;
	/** The folder in which it is listed, from the outermost. */
	folder: string[];
	connection: string;
	/** All connections that its steps go through. */
	through: string[];
	scenarios: {
		id: string;
		title: string;
		tags: string[];
		off: boolean;
		/** The dataset that it runs over. */
		data?: string;
		/** How many steps it has. */
		count: number;
	}[];
}

/** The collections of a project, or what became of them since somebody looked. */
export interface CollectionsNow {
	/** By which the next look asks what has changed. */
	version: string;
	/** The version that `collections` is the difference to; left out where they are all there. */
	since?: string;
	collections: CollectionBrief[];
	/** All names in their order, where that is another one. */
	order?: string[];
}
