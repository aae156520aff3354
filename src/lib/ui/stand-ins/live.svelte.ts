import type { CallRecord, RunningStandIn, StandInEvent } from '$lib/wire.ts';
import { untrack } from 'svelte';
import { api, messageOf } from '../common/api.ts';
import { newest } from '../common/newest.ts';
import { subscribe } from '../common/subscribe.ts';

export interface StandInView {
	name: string;
	title: string;
	answers: number;
	standsInFor: { environment: string; connection: string }[];
	problems: number;
	/** Webhooks of its definition. */
	webhooks: string[];
	running?: RunningStandIn;
	/** Why the last one ended by itself. */
	ended?: string;
}

const CALLS_SHOWN = 500;
const RELOAD_AFTER_MS = 120;

/** The stand-ins of a project, as they are now; follows them as long as the page is there. */
export class LiveStandIns {
	list: StandInView[] = $state.raw([]);
	/** Calls of the one that is looked at, or of all in which a value stands; the newest first. */
	calls: CallRecord[] = $state.raw([]);
	trouble = $state('');
	/** What the log is looked through for; empty for all calls of the one. */
	value = $state('');
	readonly #project: string;
	readonly #name: string;
	#timer: ReturnType<typeof setTimeout> | undefined;
	readonly #lists = newest();
	readonly #logs = newest();

	/** @param name the one whose calls are shown; empty for none */
	constructor(project: string, list: StandInView[], name = '') {
		this.#project = project;
		this.#name = name;
		this.list = list;
	}

	get one(): StandInView | undefined {
		return this.list.find(({ name }) => name === this.#name);
	}

	/** Gives a function that ends it. */
	follow(): () => void {
		// what is looked for may change without the connection being opened anew
		untrack(() => void this.loadCalls());
		const end = subscribe({
			url: () => `/api/projects/${this.#project}/stand-ins/events`,
			message: ({ data }) => {
				const event = JSON.parse(data) as StandInEvent;
				if (event.type === 'calls' && (event.name === this.#name || this.value)) void this.loadCalls();
				this.#soon();
			},
			// what happened while it was away
			opened: (again) => {
				if (again) void this.loadCalls();
				this.#soon();
			}
		});
		return () => {
			clearTimeout(this.#timer);
			this.#timer = undefined;
			end();
		};
	}

	#soon(): void {
		this.#timer ??= setTimeout(() => {
			this.#timer = undefined;
			void this.reload();
		}, RELOAD_AFTER_MS);
	}

	async reload(): Promise<void> {
		const isNewest = this.#lists();
		try {
			const list = await api.get<StandInView[]>(`/projects/${this.#project}/stand-ins`);
			if (!isNewest()) return;
			this.list = list;
			this.trouble = '';
		} catch (error) {
			if (isNewest()) this.trouble = messageOf(error);
		}
	}

	async loadCalls(): Promise<void> {
		if (!this.#name) return;
		const isNewest = this.#logs();
		const chosen = this.value ? `value=${encodeURIComponent(this.value)}` : `name=${encodeURIComponent(this.#name)}`;
		try {
			const found = await api.get<CallRecord[]>(
				`/projects/${this.#project}/stand-ins/calls?most=${CALLS_SHOWN}&${chosen}`
			);
			if (isNewest()) this.calls = found.reverse();
		} catch (error) {
			this.trouble = messageOf(error);
		}
	}

	async #act(order: object): Promise<boolean> {
		try {
			await api.post(`/projects/${this.#project}/stand-ins`, order);
			this.trouble = '';
			return true;
		} catch (error) {
			this.trouble = messageOf(error);
			return false;
		} finally {
			await this.reload();
			await this.loadCalls();
		}
	}
	start = (name: string, environment: string): Promise<boolean> => this.#act({ name, action: 'start', environment });
	stop = (name: string): Promise<boolean> => this.#act({ name, action: 'stop' });
	reset = (name: string): Promise<boolean> => this.#act({ name, action: 'reset' });
	/** Lets a call of its own go out. */
	send = (name: string, call: string): Promise<boolean> => this.#act({ name, action: 'send', call });
	clear = (name: string): Promise<boolean> => this.#act({ name, action: 'clear' });
	setFaults = (name: string, faults: string[]): Promise<boolean> => this.#act({ name, action: 'faults', faults });
}
