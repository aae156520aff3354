import { unpackDefinitions } from '#server/engine/index.ts';
import { strToU8, zipSync } from 'fflate';
import { expect, test } from 'vitest';

const zip = (files: Record<string, string>) => [
	{
		path: 'a.zip',
		bytes: zipSync(Object.fromEntries(Object.entries(files).map(([path, text]) => [path, strToU8(text)])))
	}
];
test('a ZIP gives its definitions and schemas, by paths that stay below it', () => {
	const given = zip({
		'api/a.wsdl': 'a',
		'../../b.xsd': 'b',
		'notes.txt': 'c',
		'__MACOSX/a.wsdl': 'd',
		'.hidden.xsd': 'e'
	});
	expect(unpackDefinitions(given).map(({ path }) => path)).toEqual(['api/a.wsdl', 'b.xsd']);
});
test('what is no ZIP is given as it is', () => {
	const file = { path: 'a.wsdl', bytes: strToU8('<definitions/>') };
	expect(unpackDefinitions([file])).toEqual([file]);
});
test.each([
	['with nothing of use', zip({ 'notes.txt': 'x' }), /holds no definition: no \.wsdl, \.yaml or \.json/],
	['that unpacks to too much', zip({ 'a.xsd': ' '.repeat(50_000_001) }), /more than 50 MB/],
	[
		'that is cut',
		zip({ 'a.xsd': 'x'.repeat(1000) }).map((one) => ({ ...one, bytes: one.bytes.slice(0, 40) })),
		/cannot be unpacked/
	]
])('a ZIP %s is refused in words', (_, given, said) => {
	expect(() => unpackDefinitions(given)).toThrow(said);
});
