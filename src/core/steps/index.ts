import type { StepKind } from './kind.ts';
import { receive } from './receive.ts';
import { send } from './send.ts';
import { call } from './call.ts';
import { script } from './script.ts';
import { set } from './set.ts';
import { stop } from './stop.ts';
import { wait } from './wait.ts';

export type { StepKind } from './kind.ts';
export { bodySchema, checkBody, checkCheck, checkSchema, parseSend, TAKES, type Take } from './send.ts';

/** All kinds of step, in the order in which they are offered. */
export const stepKinds: readonly StepKind[] = [send, set, wait, call, receive, script, stop];
export { parseReceive } from './receive.ts';
