import { SaxesParser } from 'saxes';
import { parseTemplate } from '../values/index.ts';

/** XML text with letters of the same number in place of each expression, so that places stay. */
function withoutExpressions(text: string): string | undefined {
	let out = '';
	let at = 0;
	try {
		for (const part of parseTemplate(text)) {
			if (!('source' in part)) continue;
			out += text.slice(at, part.start) + text.slice(part.start, part.end).replace(/[^\n]/g, 'x');
			at = part.end;
		}
	} catch {
		return undefined;
	}
	return out + text.slice(at);
}

/** Text with letters in place of comments, CDATA sections and processing instructions. */
const withoutSections = (text: string): string =>
	text.replace(/<!--[\s\S]*?-->|<!\[CDATA\[[\s\S]*?\]\]>|<\?[\s\S]*?\?>|<!DOCTYPE[^>[]*(\[[^\]]*\])?[^>]*>/g, (found) =>
		found.replace(/[^\n]/g, 'x')
	);

/**
 * What keeps XML text that holds expressions from being well-formed (XML 1.0, and Namespaces in XML 1.0): line and column
 * from 1. A document type is not read: nothing is fetched, and no entity is expanded.
 * @returns undefined when nothing does, or when an expression itself cannot be read
 */
export function xmlFault(
	text: string
): { message: string; line: number; column: number; fixed?: { text: string; label: string } } | undefined {
	const plain = withoutExpressions(text);
	if (plain === undefined) return undefined;
	// the parser would look for its end far away
	const alone = /&(?!(?:#\d+|#x[0-9a-fA-F]+|[A-Za-z_:][\w:.-]*);)/.exec(withoutSections(plain))?.index;
	if (alone !== undefined) {
		const before = plain.slice(0, alone);
		const place = { line: before.split('\n').length, column: alone - before.lastIndexOf('\n') };
		const fixed = { text: `${text.slice(0, alone)}&amp;${text.slice(alone + 1)}`, label: 'write &amp;' };
		return { message: 'a & stands for itself only as &amp;', ...place, fixed };
	}
	const parser = new SaxesParser({ xmlns: true, position: true });
	let fault: { message: string; line: number; column: number } | undefined;
	parser.on('error', (error) => {
		// its own message begins with the place
		const message = error.message.replace(/^\d+:\d+: /, '').replace(/\.$/, '');
		// a document type that is not read may define it
		if (message.startsWith('undefined entity') && plain.includes('<!DOCTYPE')) return;
		fault ??= { message, line: parser.line, column: parser.columnIndex + 1 };
	});
	parser.write(plain).close();
	return fault;
}
