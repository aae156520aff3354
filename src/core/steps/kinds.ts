import { call } from './call.ts';
import type { StepKind } from './kind.ts';
import { receive } from './receive.ts';
import { script } from './script.ts';
import { send } from './send.ts';
import { set } from './set.ts';
import { stop } from './stop.ts';
import { wait } from './wait.ts';

const kinds = [send, set, wait, call, receive, script, stop] as const;
type Kind = (typeof kinds)[number];

/** All kinds of step, in the order in which they are offered. */
export const stepKinds: readonly StepKind[] = kinds;

/** The key of a kind of step. */
export type StepName = Kind['key'];

/** What a step of each kind says. */
export type StepSpecs = { [One in Kind as One['key']]: ReturnType<One['parse']> };
