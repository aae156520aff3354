import type { HeaderList } from '../model/reply.ts';
import type { Tried } from './work.ts';

/** One call as the log has it; secrets masked, bodies as text and cut. */
export interface CallRecord {
	/** Counts up from 1 as long as the stand-in runs. */
	id: number;
	standIn: string;
	/** Milliseconds since 1970. */
	at: number;
	/** Until the answer was written. */
	ms: number;
	method: string;
	/** Path and query; the whole address of a call that went out. */
	target: string;
	requestHeaders: HeaderList;
	requestBody: string;
	requestSize: number;
	/** 0 where nothing was answered. */
	status: number;
	headers: HeaderList;
	body: string;
	size: number;
	/** Id of the answer; `definition`, `forward`; empty where nothing fitted. */
	by: string;
	tried: Tried[];
	faults: string[];
	notes: string[];
	/** What of the answer is not as the definition has it. */
	drift: string[];
	/** Where it was passed on to. */
	forwarded?: string;
	/** It went out from here, because of the call of this id. */
	calledBack?: number;
	/** It went out from here by itself: the id of the call. */
	sent?: string;
	/** From a traceparent field. */
	trace?: { trace: string; span: string };
}
