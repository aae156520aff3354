import { didYouMean } from '../messages.ts';

/** Names that expressions begin with, as a person writes them. */
const BEGINNINGS = ['env', 'secret', 'row', 'steps', 'run', 'request', 'response'];
/** And those of answers of a stand-in. */
const ANSWER_BEGINNINGS = ['env', 'secret', 'request', 'path', 'query', 'state', 'stored', 'page', 'asked'];

/** What there is of an answer. */
export const OF_RESPONSE: readonly string[] = [
	...['status', 'headers', 'body', 'text', 'bytes', 'time', 'size', 'cut', 'note']
];

/** What is known where a name is used. */
export interface KnownNames {
	/** What each step above keeps, by its id. */
	steps: Readonly<Record<string, object>>;
	/** Variables by name. */
	env?: object;
	/** Secrets by name. */
	secret?: object;
	/** What a stand-in remembers: where it is known, an answer is written. */
	state?: object | undefined;
}

/** What a name that expressions do not know, such as `$token`, may stand for: as the end of a message. */
export function meantBy(name: string, { steps, env = {}, secret = {}, state }: KnownNames): string {
	const [, part] = name.split('.');
	if (part !== undefined) return didYouMean(part, OF_RESPONSE);
	if (Object.hasOwn(steps, name)) return `: what the step ${name} keeps is $steps.${name}.NAME`;
	const keeper = Object.keys(steps).findLast((id) => Object.hasOwn(steps[id]!, name));
	if (keeper !== undefined) return `: the step ${keeper} keeps it as $steps.${keeper}.${name}`;
	if (Object.hasOwn(env, name)) return `: the variable is $env.${name}`;
	if (Object.hasOwn(secret, name)) return `: the secret is $secret.${name}`;
	const guess = didYouMean(name, state ? ANSWER_BEGINNINGS : BEGINNINGS);
	if (guess.startsWith(': did')) return guess;
	if (state) return `: names begin with $${ANSWER_BEGINNINGS.join(', $')}`;
	return `: what a step keeps is $steps.STEP.${name}, a variable $env.${name}`;
}
