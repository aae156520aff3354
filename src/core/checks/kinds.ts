import { baseline } from './baseline.ts';
import { body } from './body.ts';
import { contract } from './contract.ts';
import { fault } from './fault.ts';
import { cookie, header, path, query } from './header.ts';
import type { CheckKind } from './kind.ts';
import { size, time } from './measure.ts';
import { schema } from './schema.ts';
import { status } from './status.ts';
import { that } from './that.ts';
import { tls } from './tls.ts';

const ofReplies = [status, header, body, schema, contract, baseline, time, size, cookie, fault, tls, that] as const;
const ofRequests = [header, query, path, cookie, body, schema, contract, size, that] as const;

/** All kinds of check, in the order in which they are offered. */
export const checkKinds: readonly CheckKind[] = ofReplies;
/** Those that may be asked of a request that comes in. */
export const requestChecks: readonly CheckKind[] = ofRequests;
/** The key of a kind of check. */
export type CheckName = (typeof ofReplies | typeof ofRequests)[number]['key'];

const byKey = new Map<string, CheckKind>([...checkKinds, ...requestChecks].map((kind) => [kind.key, kind]));
/** A kind of check by its key; undefined for one that nobody knows. */
export const checkKind = (key: string): CheckKind | undefined => byKey.get(key);
/** Whether a key names a kind of check. */
export const isCheckName = (key: string): key is CheckName => byKey.has(key);
