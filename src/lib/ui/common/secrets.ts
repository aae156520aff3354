import type { JsonObject } from '#core/model/json.ts';
import type { ProjectState } from '../shell/project.svelte.ts';
import { api } from './api.ts';

const REFERENCE = /^\s*\{\$secret\.(\w+)\}\s*$/;

/** The secret that a field refers to, when it is nothing else. */
export const secretIn = (text: string): string | undefined => REFERENCE.exec(text)?.[1];
export const referenceTo = (name: string): string => `{$secret.${name}}`;

/** A name for the secret of a field: `gate-key` and `password` make gateKeyPassword. */
export const secretName = (...words: string[]): string =>
	words
		.join(' ')
		.split(/[^A-Za-z0-9]+/)
		.filter(Boolean)
		.map((word, i) => (i === 0 ? word : word.charAt(0).toUpperCase() + word.slice(1)))
		.join('')
		.replace(/^\d/, 's$&');

/** Writes a secret's value into the vault, for one environment or all (empty), and names it in the chosen one; without a value it is named alone. */
export async function keepSecret(
	project: ProjectState,
	environment: string,
	name: string,
	value: string
): Promise<void> {
	if (value !== '') await api.put(`/projects/${project.name}/secrets`, { environment, name, value });
	await nameSecret(project, environment || project.environment, name);
	await project.reload();
}

/** Lists a secret in the file of an environment, so that everybody who runs there knows that it is wanted. */
async function nameSecret(project: ProjectState, environment: string, name: string): Promise<void> {
	if (!project.overview.environments.some((one) => one.name === environment)) return;
	const url = `/projects/${project.name}/files/environments/${environment}.yaml`;
	const { value, revision } = await api.get<{ value: JsonObject | null; revision: number }>(url);
	const named = Array.isArray(value?.secrets) ? value.secrets : [];
	if (value === null || named.includes(name)) return;
	await api.put(url, { value: { ...value, secrets: [...named, name] }, revision });
}
