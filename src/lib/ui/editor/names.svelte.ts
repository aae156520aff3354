import { show } from '#core/checks/index.ts';
import type { ProjectState } from '../shell/project.svelte.ts';
import { getContext, setContext } from 'svelte';

/** A name that may stand in an expression, with its present value or what it is. */
export interface NameHint {
	name: string;
	detail: string;
}

/** What an expression gives at present, in words; undefined when nobody can say here. */
export type Evaluate = (source: string) => Promise<string>;
const EVALUATE = Symbol('evaluate');
export const provideEvaluate = (evaluate: Evaluate): void => void setContext(EVALUATE, evaluate);
export const useEvaluate = (): Evaluate | undefined => getContext<Evaluate | undefined>(EVALUATE);

const KEY = Symbol('names');
export const provideNames = (names: () => NameHint[]): void => void setContext(KEY, names);
export const useNames = (): (() => NameHint[]) => getContext<(() => NameHint[]) | undefined>(KEY) ?? (() => []);

/** The names that hold everywhere in a project: variables with their present values, and secrets. */
export const projectNames = (project: ProjectState): NameHint[] => [
	...Object.entries(project.values).map(([name, value]) => ({ name: `env.${name}`, detail: show(value, 60) })),
	...project.secrets.map((name) => ({ name: `secret.${name}`, detail: 'a secret' }))
];
export const provideProjectNames = (project: () => ProjectState): void => provideNames(() => projectNames(project()));
