import type { Exchange } from '#core/run/index.ts';
import { decodeText } from '#core/values/index.ts';
import { mediaType } from '#core/model/reply.ts';

const SHOWN = 200_000;

/** Bytes as text for a page: cut where it gets long, and nothing where they are no text. */
function textIn(bytes: Uint8Array, charset?: string): string {
	const { text, valid } = decodeText(bytes.subarray(0, SHOWN), charset);
	return valid || bytes.length > SHOWN ? text : '';
}

/** An exchange with its bodies as text, for pages that show it beside something else. */
export function shownExchange({ requestBody, reply, ...rest }: Exchange) {
	return {
		...rest,
		requestText: textIn(requestBody),
		...(reply
			? {
					reply: {
						...reply,
						body: undefined,
						text: textIn(reply.body, mediaType(reply.headers).charset),
						size: reply.body.length
					}
				}
			: {})
	};
}
export type ShownExchange = ReturnType<typeof shownExchange>;
