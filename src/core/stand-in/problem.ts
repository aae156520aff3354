import { writeJson, type JsonObject } from '../model/json.ts';
import type { HeaderList } from '../model/reply.ts';
import { utf8 } from '../values/index.ts';

/** Problem details for what a stand-in says by itself (RFC 9457). */
export function problemOf(
	status: number,
	detail: string,
	more: JsonObject = {},
	headers: HeaderList = []
): { status: number; headers: HeaderList; body: Uint8Array } {
	return {
		status,
		headers: [['Content-Type', 'application/problem+json'], ...headers],
		body: [204, 304].includes(status)
			? new Uint8Array()
			: utf8(writeJson({ title: titleOf(status), status, detail, ...more }))
	};
}

const TITLES: Record<number, string> = {
	400: 'The request does not fit',
	404: 'Not found',
	405: 'Method not allowed',
	409: 'It exists already',
	429: 'Too many requests',
	500: 'The stand-in failed',
	502: 'The service behind it gave no answer',
	503: 'Not available'
};
const titleOf = (status: number): string => TITLES[status] ?? `Status ${status}`;
