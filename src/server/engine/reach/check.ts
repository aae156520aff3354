import type { Transport } from '#core/model/transport.ts';
import type { Exchange, PreparedRequest } from '#core/model/exchange.ts';
import type { HeronError } from '#core/errors.ts';
import { notReached, outcomeOf, STAGES, type ReachReport, type ReachTarget, type Stage } from '#core/reach/index.ts';
import type { StartNames, StepContext } from '#core/run/index.ts';
import type { aim, ReachOrder } from './aim.ts';

/** What a check runs with. */
export type ReachContext = StepContext & { start: StartNames };

/** The stages of a check as they become known. */
export class Log {
	/** The address that is checked, as far as it is known. */
	url: string;
	readonly stages: Stage[] = [];
	readonly exchanges: Exchange[] = [];
	/** Stages that the next one may still overturn: a proxy that passes calls on is known by its answer only. */
	readonly #pending: Stage[] = [];
	readonly #order: ReachOrder;
	readonly #context: ReachContext;
	readonly #onStage: (stage: Stage) => void;
	readonly #startedAt = Date.now();
	readonly #begun = performance.now();

	constructor(order: ReachOrder, context: ReachContext, onStage: (stage: Stage) => void) {
		this.url = order.target;
		this.#order = order;
		this.#context = context;
		this.#onStage = onStage;
	}

	add(stage: Stage): void {
		for (const one of this.#pending.splice(0)) if (placeOf(one) < placeOf(stage)) this.#tell(one);
		this.#tell(stage);
	}

	/** Holds a stage back until the next one says whether it stands. */
	hold(stage: Stage): void {
		this.#pending.push(stage);
	}

	#tell(stage: Stage): void {
		const { redactor } = this.#context;
		// a fix may hold what somebody wrote: only the stage's own words stay
		const { key, state, code, fixes } = stage;
		// what a fix writes into files is never masked: a file would hold the mask
		const shown = fixes.map((fix) => ({
			...redactor.record(fix),
			edits: fix.edits,
			...(fix.files ? { files: fix.files } : {})
		}));
		const hidden: Stage = { ...redactor.record(stage), key, state, ...(code ? { code } : {}), fixes: shown };
		this.stages.push(hidden);
		this.#onStage(hidden);
	}

	report(): ReachReport {
		for (const one of this.#pending.splice(0)) this.#tell(one);
		const { stages, exchanges } = this;
		for (const key of STAGES) if (!stages.some((stage) => stage.key === key)) this.#tell(notReached(key));
		const done: ReachReport = {
			target: this.#order.target,
			url: this.url,
			environment: this.#context.environment,
			startedAt: this.#startedAt,
			ms: performance.now() - this.#begun,
			stages,
			exchanges,
			outcome: outcomeOf(stages)
		};
		return { ...this.#context.redactor.record(done), stages, outcome: done.outcome };
	}
}

/** Where a stage stands among all. */
export const placeOf = ({ key }: Stage): number => STAGES.indexOf(key);

/** A check on its way: where it goes, and what is known so far. */
export interface Check {
	order: ReachOrder;
	context: ReachContext;
	log: Log;
	aimed: Awaited<ReturnType<typeof aim>>;
	target: ReachTarget;
	/** The request without a credential. */
	request: PreparedRequest;
	/** With what a credential adds before TLS: a client certificate. */
	transport: Transport | undefined;
	/** The proxy, where it passes calls on itself instead of opening a way. */
	relay: Transport['proxy'];
	/** The name of the credential; empty for none. */
	credential: string;
}

/** Where the server is, for probes. */
export const serverPlace = ({ target, request: { transport } }: Check) => ({
	host: target.host,
	port: target.port,
	transport
});

/** Where the proxy itself is, for probes. */
export const proxyPlace = (check: Check) => {
	const proxy = check.request.transport?.proxy;
	return { ...serverPlace(check), host: proxy?.host ?? '', port: proxy?.port ?? 0 };
};

/** The end of a sentence goes where another one follows. */
export const wordsOf = (error: HeronError): string => error.message.replace(/\.$/, '');
