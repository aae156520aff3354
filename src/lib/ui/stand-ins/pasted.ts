import { textOf } from '#core/errors.ts';
import { readCalls } from '#core/exchange/index.ts';
import { linesOfHeaders, type MadeUp } from './answers.ts';

/** A call that was pasted, as it is tried; or why it cannot be. Of several the first one. */
export function pastedCall(text: string): MadeUp | string {
	try {
		const [call] = readCalls(text);
		if (!call) return 'there is no call in it';
		const { pathname, search } = new URL(call.url);
		const body = call.body && 'text' in call.body ? call.body.text : '';
		const own = call.headers.filter(([name]) => !/^(host|content-length|connection)$/i.test(name));
		return { method: call.method, target: pathname + search, headers: linesOfHeaders(own), body };
	} catch (error) {
		return textOf(error);
	}
}
