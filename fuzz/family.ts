import type { Draw } from './mutate.ts';

/** What is tried at random: a name, and a try that throws, or gives words, when something is wrong. */
export interface Family {
	name: string;
	/** Made once; `close` gives back what it holds. */
	open(): Promise<Trying>;
}
interface Trying {
	/** @returns what is wrong, or undefined */
	once(draw: Draw): Promise<string | undefined>;
	close?(): Promise<void>;
}
