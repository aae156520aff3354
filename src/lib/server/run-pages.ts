import { HeronError } from '#core/errors.ts';
import { didYouMean } from '#core/messages.ts';
import { takeOf } from '#core/model/rows.ts';
import { rowResults, type RowResult } from '#core/reports/index.ts';
import { RESULTS_PAGE as PAGE, type RunTally } from '#core/run/index.ts';
import { eachStep, type RunStore, type StoredRun, type StoredStep } from '#server/store/index.ts';

/** What the page of a run begins with. */
export interface FirstView {
	run: StoredRun;
	tally: RunTally;
	/** Results that are looked at first; all of them when `whole`. */
	steps: StoredStep[];
	whole: boolean;
}
/** Results, in the order that was asked for, from a place in it. */
export interface ResultPage {
	/** The place of the first of them. */
	from: number;
	steps: StoredStep[];
	/** There are more behind them. */
	more: boolean;
}
/** Rows of a dataset, by their numbers. */
export interface RowPage {
	from: number;
	rows: RowResult[];
	more: boolean;
}

/** A run of so many results is given whole. */
const WHOLE = 500;
/** Of a longer one so many findings are given at once. */
const AT_FIRST = 50;
const MOST_NAMED_AT_ONCE = 500;

export async function firstView(store: RunStore, run: StoredRun): Promise<FirstView> {
	const tally = await store.tally(run.id);
	if (run.status !== 'running' && tally.recorded <= WHOLE) {
		const steps: StoredStep[] = [];
		for await (const step of eachStep(store, run.id)) steps.push(step);
		return { run, tally, steps, whole: true };
	}
	const { faults, known, left, unsteady, advice } = tally;
	const seqs = [
		...[...faults.slice(0, AT_FIRST), ...known.slice(0, AT_FIRST)].map(({ first }) => first),
		...[left, unsteady, advice].flatMap(({ first }) => first.slice(0, AT_FIRST))
	];
	return { run, tally, steps: await store.named(run.id, [...new Set(seqs)]), whole: false };
}

type Query = (name: string) => string;
type Reader = (store: RunStore, run: string, query: Query) => Promise<unknown>;

/** A number that a query gives, 0 for none. @throws HeronError request.number */
function whole(query: Query, name: string): number {
	const text = query(name);
	if (!/^\d{0,12}$/.test(text)) throw new HeronError('request.number', { name, text });
	return Number(text);
}
const place = (query: Query): number => whole(query, 'from');
async function page(from: number, read: (limit: number) => Promise<StoredStep[]>): Promise<ResultPage> {
	const steps = await read(PAGE + 1);
	return { from, steps: steps.slice(0, PAGE), more: steps.length > PAGE };
}

/** What of a run's results can be asked for, as `?of=…`. */
const readers: Record<string, Reader> = {
	/** `&seqs=1,5,9`: results by their sequence numbers. */
	named: async (store, run, query) => {
		const seqs = query('seqs')
			.split(',')
			.slice(0, MOST_NAMED_AT_ONCE)
			.map((text) => whole(() => text, 'seqs'));
		return { from: 0, steps: await store.named(run, seqs), more: false } satisfies ResultPage;
	},
	/** `&cause=…`, or without it those of all causes that have no line of their own; `&known=1`: in quarantine. `from` is a sequence number. */
	findings: async (store, run, query) => {
		const known = query('known') === '1';
		const cause = query('cause');
		const of = cause
			? { known, cause }
			: { known, without: (await store.tally(run))[known ? 'known' : 'faults'].map((one) => one.cause) };
		const from = place(query);
		return page(from, (limit) => store.findings(run, of, from - 1, limit));
	},
	/** `&scenario=…`: what it did, as it began. */
	scenario: (store, run, query) => {
		const from = place(query);
		return page(from, (limit) => store.ofScenario(run, query('scenario'), from, limit));
	},
	/** `&scenario=…`: its rows; `&bad=1`: those that did not pass. */
	rows: async (store, run, query) => {
		const from = place(query);
		const steps = await store.ofRows(run, query('scenario'), query('bad') === '1', from, PAGE + 1);
		const rows = rowResults(steps).sort((a, b) => a.number - b.number);
		return { from, rows: rows.slice(0, PAGE), more: rows.length > PAGE } satisfies RowPage;
	},
	/** `&scenario=…&row=…`: the results of one row. */
	row: async (store, run, query) => {
		const steps = await store.ofRow(run, query('scenario'), whole(query, 'row'));
		return { from: 0, steps, more: false } satisfies ResultPage;
	},
	/** `&scenario=…`: the rows that did not pass, as they are named to be run again. */
	badRows: async (store, run, query) => ({ take: takeOf(await store.badRows(run, query('scenario'))) }),
	/** `&scenario=…&step=…`: its newest result, on the page of its scenario, or of its rows. */
	step: async (store, run, query) => {
		const step = await store.lastOf(run, query('scenario'), query('step'));
		if (!step) return { from: 0, steps: [], more: false } satisfies ResultPage;
		const before = await store.placeOf(step);
		return { from: before - (before % PAGE), steps: [step], more: false } satisfies ResultPage;
	}
};

/** Reads results of a run. @throws HeronError run.results */
export async function readResults(store: RunStore, run: string, query: Query): Promise<unknown> {
	const of = query('of');
	const reader = Object.hasOwn(readers, of) ? readers[of] : undefined;
	if (!reader) throw new HeronError('run.results', { name: of, nearest: didYouMean(of, Object.keys(readers)) });
	return reader(store, run, query);
}
