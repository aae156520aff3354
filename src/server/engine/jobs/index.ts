import type { JobName } from '../protocol.ts';
import { askStandIn } from './ask-stand-in.ts';
import type { Handler } from './context.ts';
import { bodySchema } from './body-schema.ts';
import { coverage, missingSteps, operations } from './coverage.ts';
import { dataset } from './dataset.ts';
import { definition } from './definition.ts';
import { importJob } from './import.ts';
import { judgeJob } from './judge.ts';
import { madeUp } from './made-up.ts';
import { make } from './make.ts';
import { operation } from './operation.ts';
import { preview } from './preview.ts';
import { reachJob } from './reach.ts';
import { recipe } from './recipe.ts';
import { recorded } from './recorded.ts';
import { refused } from './refused.ts';
import { rehearsal } from './rehearse.ts';
import { resolve } from './resolve.ts';
import { run } from './run.ts';
import { flow } from './sign-in.ts';
import { standIn } from './stand-in.ts';
import { tryIt } from './try.ts';

/** Jobs whose results are what came back, not what somebody asks to see. */
export const SENDING: ReadonlySet<JobName> = new Set(['run', 'reach', 'flow', 'definition', 'standIn']);
/** Each job, and what carries it out. */
export const handlers: { [N in JobName]: Handler<N> } = {
	run,
	preview,
	bodySchema,
	operation,
	judge: judgeJob,
	rehearse: rehearsal,
	resolve,
	definition,
	import: importJob,
	try: tryIt,
	dataset,
	make,
	reach: reachJob,
	recipe,
	flow,
	standIn,
	recorded,
	askStandIn,
	refused,
	madeUp,
	coverage,
	operations,
	missingSteps
};
