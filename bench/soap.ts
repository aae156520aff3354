// SOAP: reading a definition against parsing its text, and holding answers against it against parsing them.
import { SaxesParser } from 'saxes';
import { contractFaults, modelOf, readDefinition, sampleValues, writeEnvelope } from '#core/soap/index.ts';
import { createXml } from '#server/engine/xml.ts';

const XS = 'http://www.w3.org/2001/XMLSchema';
const OPERATIONS = 400;
const types = (part: number): string => {
	const all = Array.from({ length: 1700 }, (_, i) => {
		const id = `${part}x${i}`;
		return `<xs:complexType name="T${id}"><xs:annotation><xs:documentation>What the lock keeper writes down, part ${id} of the ledger of passages.</xs:documentation></xs:annotation><xs:sequence><xs:element name="lock" type="xs:string"/><xs:element name="metres" type="xs:decimal" minOccurs="0"/><xs:element name="line" minOccurs="0" maxOccurs="unbounded"><xs:complexType><xs:sequence><xs:element name="text" type="xs:string"/><xs:element name="pence" type="xs:int"/></xs:sequence><xs:attribute name="kind" use="required"/></xs:complexType></xs:element></xs:sequence></xs:complexType>`;
	});
	const elements = Array.from(
		{ length: OPERATIONS / 5 },
		(_, i) =>
			`<xs:element name="Ask${part}x${i}" type="t:T${part}x${i}"/><xs:element name="Say${part}x${i}" type="t:T${part}x${i}"/>`
	);
	return `<xs:schema xmlns:xs="${XS}" xmlns:t="urn:t${part}" targetNamespace="urn:t${part}" elementFormDefault="qualified">${all.join('\n')}${elements.join('\n')}</xs:schema>`;
};
const parts = [0, 1, 2, 3, 4];
const names = parts.flatMap((part) => Array.from({ length: OPERATIONS / 5 }, (_, i) => ({ part, id: `${part}x${i}` })));
const wsdl = `<definitions xmlns="http://schemas.xmlsoap.org/wsdl/" xmlns:s="http://schemas.xmlsoap.org/wsdl/soap/" xmlns:l="urn:l" ${parts.map((part) => `xmlns:t${part}="urn:t${part}"`).join(' ')} targetNamespace="urn:l">
<types><xs:schema xmlns:xs="${XS}">${parts.map((part) => `<xs:import namespace="urn:t${part}" schemaLocation="t${part}.xsd"/>`).join('')}</xs:schema></types>
${names.map(({ part, id }) => `<message name="Ask${id}"><part name="p" element="t${part}:Ask${id}"/></message><message name="Say${id}"><part name="p" element="t${part}:Say${id}"/></message>`).join('\n')}
<portType name="P">${names.map(({ id }) => `<operation name="O${id}"><input message="l:Ask${id}"/><output message="l:Say${id}"/></operation>`).join('')}</portType>
<binding name="B" type="l:P"><s:binding transport="http://schemas.xmlsoap.org/soap/http"/>${names.map(({ id }) => `<operation name="O${id}"><s:operation soapAction="O${id}"/><input><s:body use="literal"/></input><output><s:body use="literal"/></output></operation>`).join('')}</binding>
<service name="S"><port name="P" binding="l:B"><s:address location="http://127.0.0.1/"/></port></service></definitions>`;
const files: Record<string, string> = { 'definitions/x/a.wsdl': wsdl };
for (const part of parts) files[`definitions/x/t${part}.xsd`] = types(part);
const size = Object.values(files).reduce((sum, text) => sum + text.length, 0);

const median = (all: number[]) => all.sort((a, b) => a - b)[Math.floor(all.length / 2)]!;
const timed = async (work: () => unknown): Promise<number> => {
	const at = performance.now();
	await work();
	return performance.now() - at;
};
async function ratio(
	name: string,
	rounds: number,
	baseName: string,
	base: () => unknown,
	work: () => unknown
): Promise<void> {
	const [bare, ours]: [number[], number[]] = [[], []];
	for (let i = 0; i < rounds; i++) {
		bare.push(await timed(base));
		ours.push(await timed(work));
	}
	const [a, b] = [median(ours), median(bare)];
	console.log(`${name.padEnd(58)} ${(a / b).toFixed(2)} × ${baseName} (${Math.round(a)} ms)`);
}

const read = () => readDefinition('definitions/x/a.wsdl', (path) => files[path]);
await ratio(
	`a definition of ${(size / 1e6).toFixed(1)} MB in six files, ${OPERATIONS} operations`,
	5,
	'parsing the texts',
	() => {
		for (const text of Object.values(files)) new SaxesParser({ xmlns: true }).write(text).close();
	},
	read
);

const definition = read();
const operation = definition.operations[7]!;
const model = modelOf(definition, operation);
const sample = writeEnvelope(model, sampleValues(model, 'full')).text;
const lines = '<m:line kind="x"><m:text>Lock passage</m:text><m:pence>12</m:pence></m:line>'.repeat(50);
const reply = sample.replaceAll(/Ask(\d)/g, 'Say$1').replace(/<m:line[\s\S]*<\/m:line>/, lines);
const xml = createXml(() => undefined);
const found = { definition, operation };
const faults = await contractFaults(reply, 'output', found, xml);
if (faults.length > 0) throw new Error(faults[0]!.message);
await ratio(
	`1,000 answers of ${(reply.length / 1000).toFixed(1)} kB held against the contract`,
	3,
	'parsing them',
	async () => {
		for (let i = 0; i < 1000; i++) (await xml.open(reply)).close();
	},
	async () => {
		for (let i = 0; i < 1000; i++) await contractFaults(reply, 'output', found, xml);
	}
);
