import { HeronError } from '../errors.ts';
import type { SentCall } from './call.ts';
import { readCurl } from './curl.ts';
import { looksLikeAddress, looksLikeCurl, looksLikeMessage } from './looks.ts';
import { readMessage } from './message.ts';

export type { SentCall, SentPart } from './call.ts';
export { readCurl } from './curl.ts';
export { looksLikeCall, looksLikeCurl } from './looks.ts';
export { isStatic, readHar, type ReadRecording, type Recorded } from './har.ts';
export { readMessage, writeMessage, writeReplyMessage } from './message.ts';
export {
	hostsOf,
	keyOfThread,
	leftWords,
	planRecording,
	rowsOfRecording,
	usualChoice,
	type Left,
	type MadeRecording,
	type RecordingMaking,
	type RecordedRow
} from './recording.ts';
export { readSampleAnswer, type SampleAnswer } from './sample-answer.ts';
export { stepsOfCalls } from './steps.ts';
export { stepOfCall, type FoundSecret, type MadeStep, type StepMaking } from './to-step.ts';
export { writeCurl, type CurlShell, type WrittenCall } from './write-curl.ts';

/**
 * The calls of a text: command lines of curl, a request as it stands on the wire, or an address.
 * @throws HeronError exchange.*, value.address
 */
export function readCalls(text: string): SentCall[] {
	if (looksLikeCurl(text)) return readCurl(text);
	if (looksLikeMessage(text)) return readMessage(text);
	if (!looksLikeAddress(text))
		throw new HeronError('exchange.none', {
			detail: 'a command of curl is wanted, an address, or a request as it is sent: POST /path HTTP/1.1 and its fields'
		});
	const [, method = 'GET', url = ''] = /^\s*(?:([A-Za-z]+)\s+)?(\S+)/.exec(text) ?? [];
	if (!URL.canParse(url)) throw new HeronError('value.address', { address: url });
	return [{ method: method.toUpperCase(), url, headers: [], notes: [] }];
}
export type { Thread } from './threads.ts';
