import { calls } from './calls.ts';
import { connections } from './connections.ts';
import { credentials } from './credentials.ts';
import { environments } from './environments.ts';
import { expected } from './expected.ts';
import { order } from './order.ts';
import { outputs } from './outputs.ts';
import { quarantine } from './quarantine.ts';
import { rows } from './rows.ts';
import type { CollectionRule, ProjectRule } from './rule.ts';
import { soap } from './soap.ts';
import { standIns } from './stand-ins.ts';
import { steps } from './steps.ts';
import { suites } from './suites.ts';
import { titles } from './titles.ts';
import { unused } from './unused.ts';

/** What is looked at of a project as a whole, in this order. */
export const projectRules: readonly ProjectRule[] = [
	environments,
	connections,
	credentials,
	unused,
	suites,
	standIns,
	quarantine,
	order
];
/** What is looked at of each collection. */
export const collectionRules: readonly CollectionRule[] = [steps, expected, soap, outputs, rows, calls, titles];
