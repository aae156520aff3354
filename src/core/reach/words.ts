import { mediaType, type Reply } from '../model/reply.ts';
import { shortened } from '../model/shortened.ts';
import { decodeText } from '../values/index.ts';

/** A text as a sentence begins and ends where another one is put around it. */
export const sentence = (text: unknown): string => {
	const plain = String(text ?? '').replace(/\.$/, '');
	return plain.charAt(0).toUpperCase() + plain.slice(1);
};
const LOOKED = 2000;
/** The first of a reply's body as text. */
export const startOf = ({ body }: Reply): string =>
	decodeText(body.subarray(0, LOOKED)).text + (body.length > LOOKED ? '…' : '');

/** What a refusal says for itself, behind a colon; empty where it says nothing. */
export const saidIn = (reply: Reply): string => {
	const { type } = mediaType(reply.headers);
	const text = startOf(reply).trim();
	if (!text || type === 'text/html') return '';
	let said = text;
	try {
		const data = JSON.parse(text) as Record<string, unknown>;
		const inner = [data.error_description, data.detail, data.message, data.title, data.error].find(
			(one) => typeof one === 'string'
		);
		if (typeof inner === 'string') said = inner;
	} catch {
		// said as it stands
	}
	return `: “${shortened(said.replace(/\s+/g, ' '), 160)}”`;
};
