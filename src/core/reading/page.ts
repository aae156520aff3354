import { htmlAsXml } from '../model/html.ts';
import { xmlData } from '../model/xml-data.ts';
import type { ReadBody } from './read.ts';

/** Of longer pages no tree is made. */
const LONGEST = 5_000_000;

/** A body with the tree of its page, where it is HTML, as XPath finds it: what is well-formed XML is read as such. */
export async function withPage(body: ReadBody): Promise<ReadBody> {
	if (body.type !== 'text/html' || body.form !== 'html' || body.text.length > LONGEST) return body;
	try {
		return { ...body, data: xmlData(body.text) };
	} catch {
		return { ...body, data: xmlData(await htmlAsXml(body.text)) };
	}
}
