import { api } from '../common/api.ts';

/** A secret as the server tells of it: never its value. */
export interface Secret {
	name: string;
	/** The variable of the process that gives it. */
	variable: string;
	/** Whether the server's process has that variable. */
	process: boolean;
	/** Environments for which the vault holds it; empty for all. */
	kept: { environment: string; updatedAt: number; readable: boolean }[];
	/** Environments whose files name it. */
	named: string[];
}
export interface Reveal {
	environment: string;
	name: string;
	at: number;
}
export type SecretState = 'kept' | 'shut' | 'all' | 'process' | 'missing' | 'unused';

/** Where the value comes from in an environment; the empty name stands for all. */
export function stateOf({ kept, process, named }: Secret, environment: string): SecretState {
	const own = kept.find((one) => one.environment === environment);
	if (own) return own.readable ? 'kept' : 'shut';
	if (environment === '') return process ? 'process' : 'unused';
	const all = kept.find((one) => one.environment === '');
	if (all?.readable) return 'all';
	if (process) return 'process';
	return named.includes(environment) ? 'missing' : 'unused';
}

interface Found {
	secrets: Secret[];
	reveals: Reveal[];
}
export const fetchSecrets = (project: string): Promise<Found> => api.get<Found>(`/projects/${project}/secrets`);

/** The secrets of a project. */
export class Secrets {
	readonly project: string;
	list: Secret[] = $state.raw([]);
	reveals: Reveal[] = $state.raw([]);

	constructor(project: string, found: Found) {
		this.project = project;
		this.#take(found);
	}
	#take({ secrets, reveals }: Found): void {
		this.list = secrets;
		this.reveals = reveals;
	}
	async load(): Promise<void> {
		this.#take(await fetchSecrets(this.project));
	}
	async remove(environment: string, name: string): Promise<void> {
		await api.put(`/projects/${this.project}/secrets`, { environment, name, value: '' });
		await this.load();
	}
	async reveal(environment: string, name: string): Promise<string> {
		const { value } = await api.post<{ value: string }>(`/projects/${this.project}/secrets/reveal`, {
			environment,
			name
		});
		await this.load();
		return value;
	}
}
