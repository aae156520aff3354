import type { Answer } from '../documents/stand-in.ts';
import type { FoundOperation } from '../soap/index.ts';
import { unescapeAddress, utf8 } from '../values/index.ts';
import type { Reading } from './asked.ts';
import { preflight } from './cors.ts';
import { fits } from './fits.ts';
import { give } from './give.ts';
import { passOn } from './pass-on.ts';
import { createPathIndex, type PathIndex } from '../model/route.ts';
import { faultGiven, secured } from './soap-side.ts';
import { begun, blank, nothing, type Answered, type Tried, type Work } from './work.ts';

/** How long after its answer an operation of a definition calls back. */
const CALLS_BACK_AFTER_MS = 500;

/** An answer that a request may get, by its place, and the values of its path. */
interface Candidate {
	at: number;
	path: Record<string, string>;
}

/** Decides what a request is answered: by an answer that fits, else as the stand-in's file says. */
export class Decider {
	readonly #work: Work;
	readonly #answers: readonly Answer[];
	readonly #byPath: PathIndex;
	readonly #byOperation = new Map<string, number[]>();

	constructor(work: Work) {
		this.#work = work;
		this.#answers = work.spec.answers.filter(({ off }) => !off);
		this.#byPath = createPathIndex(this.#answers.map(({ parts, operation }) => (operation ? [] : parts)));
		for (const [at, { operation }] of this.#answers.entries())
			if (operation) this.#byOperation.set(operation, [...(this.#byOperation.get(operation) ?? []), at]);
	}

	/** @param trial nothing is remembered @throws HeronError value.*, send.* */
	async decide(reading: Reading, trial: boolean): Promise<Answered> {
		const { spec, definitions } = this.#work;
		const tried: Tried[] = [];
		const below = belowBase(reading.path, spec.base);
		if (below === undefined) return nothing(404, `${reading.path} is not below ${spec.base}`, tried);
		const soap = this.#byOperation.size > 0 || spec.definition ? definitions.soap(reading) : undefined;
		const candidates = this.#candidates(below, soap);
		const refused = soap && (await secured(this.#work, soap, reading));
		if (refused) return refused;
		return (
			(await this.#byAnswer(candidates, reading, tried, trial)) ??
			(await this.#otherwise(reading, tried)) ??
			this.#unanswered(candidates, { reading, below, soap, tried })
		);
	}

	/** Answers for the path or the operation, in the order of the file. */
	#candidates(below: string, soap: FoundOperation | undefined): Candidate[] {
		const found: Candidate[] = this.#byPath.find(below).filter(({ at }) => !this.#answers[at]!.operation);
		if (soap)
			for (const key of [soap.operation.key, soap.operation.name])
				for (const at of this.#byOperation.get(key) ?? [])
					if (!found.some((one) => one.at === at)) found.push({ at, path: {} });
		return found.sort((a, b) => a.at - b.at);
	}

	/** The first answer that fits; why others do not is told in `tried`. */
	async #byAnswer(
		candidates: readonly Candidate[],
		reading: Reading,
		tried: Tried[],
		trial: boolean
	): Promise<Answered | undefined> {
		const asked = reading.asked.method;
		for (const { at, path } of candidates) {
			const answer = this.#answers[at]!;
			const { id, method } = answer;
			if (method && method !== asked && !(method === 'GET' && asked === 'HEAD')) {
				tried.push({ id, why: `its method is ${method}` });
				continue;
			}
			const fit = await fits(this.#work, answer, reading, path);
			if (typeof fit !== 'string') return { ...(await give(this.#work, answer, reading, path, fit.row, trial)), tried };
			tried.push({ id, why: fit });
		}
		return undefined;
	}

	/** What is answered where no answer fits: to browsers, by the definition, or by whom it is passed on to. */
	async #otherwise(reading: Reading, tried: Tried[]): Promise<Answered | undefined> {
		const { spec, definitions } = this.#work;
		const { asked } = reading;
		const allowed = preflight(spec.cors, asked);
		if (allowed)
			return { ...begun('cors', tried), given: { ...blank(), status: 204, headers: allowed }, refused: true };
		const wanted = asked.method === 'GET' && spec.definition ? wsdlAsked(asked.target) : undefined;
		const text = wanted === undefined ? undefined : definitions.text(asked.origin, wanted);
		if (text !== undefined)
			return {
				given: { ...blank(), headers: [['Content-Type', 'text/xml; charset=utf-8']], body: utf8(text) },
				...{ by: 'definition', tried, faults: [], calls: [], notes: [], refused: true }
			};
		const defined = spec.otherwise.definition ? await definitions.answer(reading) : undefined;
		if (defined)
			return {
				given: { ...blank(), status: defined.status, headers: defined.headers, body: defined.body },
				...{ by: 'definition', tried, faults: [], notes: defined.notes },
				calls: (defined.calls ?? []).map((outgoing) => ({ after: CALLS_BACK_AFTER_MS, outgoing })),
				// what could not be made of it is told already
				...(defined.refused || defined.notes.length > 0 ? { refused: true } : {})
			};
		if (!spec.otherwise.forward) return undefined;
		const answered = begun('forward', tried);
		await passOn(this.#work, spec.otherwise.forward, reading, answered, undefined, {});
		return answered;
	}

	/** That nothing fits, and why. */
	#unanswered(
		candidates: readonly Candidate[],
		{
			reading,
			below,
			soap,
			tried
		}: { reading: Reading; below: string; soap: FoundOperation | undefined; tried: Tried[] }
	): Answered {
		const { title } = this.#work.spec;
		const { method } = reading.asked;
		if (soap) {
			const reasons = tried.map(({ id, why }) => `${id}: ${why}`).join('; ') || 'there is none for it';
			return { ...begun('', tried), given: faultGiven(soap, `no answer of ${title} fits: ${reasons}`) };
		}
		const onlyMethod = candidates.length > 0 && tried.every(({ why }) => why.startsWith('its method is'));
		if (!onlyMethod) return nothing(404, `no answer of ${title} fits ${method} ${below}`, tried);
		const methods = [...new Set(candidates.flatMap(({ at }) => this.#answers[at]!.method || []))].join(', ');
		return nothing(405, `${method} ${below}: answered are ${methods}`, tried, [['Allow', methods]]);
	}
}

/** A path below a stand-in's base; undefined where it is elsewhere. */
function belowBase(path: string, base: string): string | undefined {
	if (base === '') return path;
	if (path === base) return '/';
	return path.startsWith(`${base}/`) ? path.slice(base.length) : undefined;
}

/** The file of a WSDL that a target asks for: `?wsdl`, or `?wsdl=FILE` for what it reads; undefined for none. */
function wsdlAsked(target: string): string | undefined {
	const match = /\?wsdl(?:=([^&]*))?$/i.exec(target);
	return match ? unescapeAddress(match[1] ?? '') : undefined;
}
