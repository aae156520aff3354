import type { Format } from 'ajv';
import addFormats from 'ajv-formats';
import { domainToASCII } from 'node:url';

type Install = typeof addFormats;
// CommonJS that came through a bundler may sit one level deeper
const install: Install = (addFormats as unknown as { default?: Install }).default ?? addFormats;

const known = (name: 'uri' | 'uri-reference' | 'email' | 'hostname'): ((text: string) => boolean) => {
	const format: Format = install.get(name);
	if (format instanceof RegExp) return (text) => format.test(text);
	return format as (text: string) => boolean;
};

/** An IRI as the URI that it stands for (RFC 3987 section 3.1). */
const asUri = (text: string): string =>
	text.replace(/[\u{a0}-\u{d7ff}\u{f900}-\u{efffd}]/gu, (one) => encodeURIComponent(one));
/** RFC 6531 section 3.3: letters outside ASCII stand where letters stand. */
const asAscii = (text: string): string => text.replace(/[^\0-\x7f]/g, 'x');

function idnHostname(text: string): boolean {
	const ascii = domainToASCII(text);
	return ascii !== '' && known('hostname')(ascii);
}

/** All formats of the drafts: those of the package, and the four that it leaves to others. */
export function addAllFormats(ajv: { addFormat(name: string, format: Format): unknown }): void {
	install(ajv as never);
	ajv.addFormat('iri', (text: string) => known('uri')(asUri(text)));
	ajv.addFormat('iri-reference', (text: string) => known('uri-reference')(asUri(text)));
	ajv.addFormat('idn-hostname', idnHostname);
	ajv.addFormat('idn-email', (text: string) => {
		const [local = '', host = ''] = text.split(/@(?=[^@]*$)/);
		return known('email')(`${asAscii(local)}@${domainToASCII(host)}`);
	});
}
