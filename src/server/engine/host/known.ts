import type { Token } from '#core/auth/index.ts';
import type { Jobs, JobName, Sealed, StoredMemory } from '../protocol.ts';

interface KnownToken {
	project: string;
	environment: string;
	credential: string;
	token: Token | undefined;
}

/** As long as somebody may take for a sign-in by hand. */
const SIGN_IN_MS = 15 * 60_000;

/** What processes have left behind of projects, for those that follow. */
export class Known {
	/** By project, environment, scenario and visitor; the oldest are let go. */
	readonly #memories = new Map<string, StoredMemory>();
	/** What was told of a token may not be in the vault yet. */
	readonly #tokens = new Map<string, KnownToken>();
	/** Which project began a sign-in by hand. */
	readonly #flows = new Map<string, { project: string; at: number }>();
	readonly #mostMemories: number;

	/** @param mostMemories of scenarios */
	constructor(mostMemories: number) {
		this.#mostMemories = mostMemories;
	}

	takeToken(known: KnownToken): void {
		this.#tokens.set(JSON.stringify([known.project, known.environment, known.credential]), known);
	}
	forgetToken(project: string, environment: string, credential: string): void {
		this.#tokens.delete(JSON.stringify([project, environment, credential]));
	}
	/** What is sealed, with the newest that is known of tokens: the vault's may be older. */
	sealedWith(project: string, sealed: Sealed, environment: string): Sealed {
		const list = new Map(sealed.tokens.map((one) => [one.credential, one.token]));
		for (const one of this.#tokens.values()) {
			if (one.project !== project || one.environment !== environment) continue;
			if (one.token) list.set(one.credential, one.token);
			else list.delete(one.credential);
		}
		return { ...sealed, tokens: [...list].map(([credential, token]) => ({ credential, token })) };
	}

	takeMemory(project: string, environment: string, scenario: string, visitor: string, memory: StoredMemory): void {
		const key = JSON.stringify([project, environment, scenario, visitor]);
		this.#memories.delete(key);
		this.#memories.set(key, memory);
		if (this.#memories.size > this.#mostMemories) this.#memories.delete(this.#memories.keys().next().value!);
	}
	/** What scenarios that a job is about remember, by `collection/scenario`. */
	memoriesOf(
		project: string,
		type: JobName,
		order: Jobs[JobName]['order'],
		visitor: string
	): Record<string, StoredMemory> {
		const { environment } = order as { environment: string };
		return Object.fromEntries(
			scenariosOf(type, order).flatMap((key) => {
				const found = this.#memories.get(JSON.stringify([project, environment, key, visitor]));
				return found ? [[key, found]] : [];
			})
		);
	}

	/** A sign-in by hand has begun. */
	takeFlow(flow: string, project: string): void {
		this.#flows.set(flow, { project, at: Date.now() });
	}
	/** The project that began a sign-in; empty when nobody here did. */
	projectOfFlow(flow: string): string {
		return this.#flows.get(flow)?.project ?? '';
	}
	/** Whether somebody may be signing in for a project. */
	signsIn(project: string): boolean {
		return [...this.#flows.values()].some((one) => one.project === project && Date.now() - one.at < SIGN_IN_MS);
	}

	/** Lets go of all that is known of a project. */
	leave(project: string): void {
		const memories = this.#memories;
		for (const key of memories.keys()) if ((JSON.parse(key) as string[])[0] === project) memories.delete(key);
		for (const [key, one] of this.#tokens) if (one.project === project) this.#tokens.delete(key);
		for (const [key, one] of this.#flows) if (one.project === project) this.#flows.delete(key);
	}
}

/** The scenarios whose memory a job goes on with. */
function scenariosOf(type: JobName, order: Jobs[JobName]['order']): string[] {
	if (type === 'run') {
		const { only, targets } = order as Jobs['run']['order'];
		return only.length > 0 ? targets : [];
	}
	if (type === 'try') return [(order as Jobs['try']['order']).scenario ?? ''];
	if (type === 'preview' || type === 'judge') {
		const { collection, scenario } = order as Jobs['preview']['order'];
		return [`${collection}/${scenario}`];
	}
	if (type !== 'recipe') return [];
	const { step } = order as Jobs['recipe']['order'];
	return step ? [`${step.collection}/${step.scenario}`] : [];
}
