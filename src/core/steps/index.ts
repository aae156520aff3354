import type { StepKind } from './kind.ts';
import { send } from './send.ts';
import { set } from './set.ts';
import { wait } from './wait.ts';

export type { StepField, StepKind } from './kind.ts';
export { parseSend } from './send.ts';

export const stepKinds: readonly StepKind[] = [send, set, wait];
export const stepKind = (key: string): StepKind | undefined => stepKinds.find((kind) => kind.key === key);
