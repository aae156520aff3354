import { isJsonType, isXmlType, mediaType } from '#core/model/reply.ts';
import { decodeText } from '#core/values/index.ts';
import type { Preview } from '#server/engine/protocol.ts';

/** A request as a page shows it: its body as text where it is text. */
export interface ShownWire extends Omit<Preview, 'body'> {
	body: string;
	/** Octets. */
	bodySize: number;
	binary: boolean;
}

const MOST = 1_000_000;

export function shownWire(preview: Preview): ShownWire {
	const { type } = mediaType(preview.headers);
	const { text, valid } = decodeText(preview.body);
	const shown = valid || isJsonType(type) || isXmlType(type) || type.startsWith('multipart/') ? text : '';
	const { body, ...pieces } = preview.pieces;
	return {
		...preview,
		pieces: body && shown.length <= MOST ? { ...pieces, body } : pieces,
		body: shown.slice(0, MOST),
		bodySize: preview.body.length,
		binary: preview.body.length > 0 && !shown
	};
}
