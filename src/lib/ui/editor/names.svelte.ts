import { getContext, setContext } from 'svelte';

/** A name that may stand in an expression, with its present value or what it is. */
export interface NameHint {
	name: string;
	detail: string;
}

const KEY = Symbol('names');
export const provideNames = (names: () => NameHint[]): void => void setContext(KEY, names);
export const useNames = (): (() => NameHint[]) => getContext<(() => NameHint[]) | undefined>(KEY) ?? (() => []);
