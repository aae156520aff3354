import { HeronError } from '#core/errors.ts';
import { writeJson, type Json } from '#core/model/json.ts';
import {
	answerModel,
	compareDefinitions,
	contractFaults,
	createWsdlRegistry,
	readEnvelope,
	sampleValues,
	viewSoapOperation,
	writeAnswer,
	writeEnvelope,
	writeFault,
	type FoundOperation,
	type SoapModel,
	type SoapValues
} from '#core/soap/index.ts';
import { createXml } from '#server/engine/xml.ts';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Family } from './family.ts';
import type { Draw } from './mutate.ts';
import { planned, tooLong } from './planned.ts';

const root = process.cwd();
const filesIn = (folder: string): [string, string][] =>
	readdirSync(join(root, folder))
		.filter((name) => /\.(wsdl|xsd)$/.test(name))
		.map((name) => [name, readFileSync(join(root, folder, name), 'utf8')]);

const ODD = [
	...[
		'',
		' ',
		'0',
		'-1',
		'5',
		'1000000',
		'99999999999999999999',
		'unbounded',
		'true',
		'false',
		'x',
		'a b',
		'#all',
		'##any'
	],
	...[
		'xs:string',
		'xsd:int',
		'tns:x',
		'nobody:x',
		':',
		'a:b:c',
		'http://127.0.0.1:1/',
		'urn:x',
		'__proto__',
		'constructor'
	],
	...[
		'optional',
		'required',
		'prohibited',
		'qualified',
		'unqualified',
		'literal',
		'encoded',
		'rpc',
		'document',
		'lax',
		'skip'
	]
];
const TAGS = [
	...['sequence', 'choice', 'all', 'element', 'attribute', 'complexType', 'simpleType', 'extension', 'restriction'],
	...[
		'group',
		'attributeGroup',
		'any',
		'anyAttribute',
		'list',
		'union',
		'enumeration',
		'pattern',
		'minLength',
		'maxInclusive'
	],
	...[
		'simpleContent',
		'complexContent',
		'import',
		'include',
		'part',
		'message',
		'operation',
		'input',
		'output',
		'fault'
	]
];
const ATTRIBUTE = /\s[\w:.-]+="[^"]*"/g;
const EMPTY_ELEMENT = /<[\w:.-]+(\s[^<>]*)?\/>/g;

/** Changes a text of XML in one to five places, so that it mostly stays XML. */
function change(text: string, draw: Draw): string {
	let out = text;
	const replaced = (pattern: RegExp, by: (found: string) => string): string => {
		const all = [...out.matchAll(pattern)];
		if (all.length === 0) return out;
		const one = draw.of(all);
		return out.slice(0, one.index) + by(one[0]) + out.slice(one.index + one[0].length);
	};
	const valued = (value: string) => (found: string) => found.replace(/="[^"]*"/, `="${value}"`);
	for (let count = 1 + draw.below(5); count > 0; count--) {
		const others = [...out.matchAll(ATTRIBUTE)].map(([one]) => one);
		const other = /="([^"]*)"/.exec(draw.of(others.length > 0 ? others : [' x="y"']))![1]!;
		out = draw.of<() => string>([
			() => replaced(ATTRIBUTE, valued(draw.of(ODD))),
			() => replaced(ATTRIBUTE, valued(other)),
			() => replaced(ATTRIBUTE, () => ''),
			() =>
				replaced(ATTRIBUTE, (found) =>
					found.replace(
						/\s[\w:.-]+/,
						` ${draw.of(['name', 'type', 'ref', 'base', 'use', 'minOccurs', 'maxOccurs', 'fixed', 'default', 'nillable', 'abstract', 'substitutionGroup', 'mixed', 'form'])}`
					)
				),
			() => replaced(EMPTY_ELEMENT, () => ''),
			() => replaced(EMPTY_ELEMENT, (found) => found + found),
			() =>
				replaced(EMPTY_ELEMENT, (found) =>
					found.replace(/^(<[\w.-]+:)?[\w.-]+/, (_, prefix: string = '<') => `${prefix}${draw.of(TAGS)}`)
				),
			() => {
				const [from, to] = [draw.of(TAGS), draw.of(TAGS)];
				return out.replace(new RegExp(`(</?[\\w.-]+:)${from}\\b`, 'g'), `$1${to}`);
			}
		])();
	}
	return out;
}

/** WSDLs, changed: whatever is made of one fits itself, and whatever uses one ends, in words or well. */
export const usedWsdls: Family = {
	name: 'used wsdls',
	async open() {
		const sets = ['demo/reedmere/definitions/tolls', 'tests/engine/definitions', 'tests/engine/definitions/parts'].map(
			filesIn
		);
		const xml = createXml(() => undefined);
		return {
			async once(draw) {
				const before = draw.of(sets);
				const chosen = draw.below(before.length);
				const files = before.map(([name, text], at): [string, string] => [
					name,
					at === chosen ? change(text, draw) : text
				]);
				const start = process.cpuUsage();
				try {
					const fault =
						planned(files.map(([path, text]) => ({ path, bytes: Buffer.from(text) }))) ??
						(await used(before, files, xml));
					if (fault) return fault;
				} catch (error) {
					if (!(error instanceof HeronError)) throw error;
				}
				return tooLong(start);
			}
		};
	}
};

const registryOf = (files: [string, string][]) => {
	const bytes = new Map(files.map(([name, text]) => [`definitions/${name}`, Buffer.from(text)]));
	return createWsdlRegistry(bytes.keys(), (path) => bytes.get(path));
};

/** Each operation as the pages, runs and stand-ins use it. */
async function used(
	before: [string, string][],
	after: [string, string][],
	xml: ReturnType<typeof createXml>
): Promise<string | undefined> {
	const registry = registryOf(after);
	const old = registryOf(before)
		.all()
		.flatMap(({ definition }) => definition ?? []);
	for (const { file, definition } of registry.all()) {
		if (!definition) continue;
		const twin = old.find((one) => one.file === file);
		if (twin) writeJson(compareDefinitions(twin, definition) as unknown as Json);
		for (const operation of definition.operations) {
			const found = { definition, operation };
			writeJson(viewSoapOperation(registry, file, operation.key) as unknown as Json);
			const fault =
				roundTrip(registry.model(found), 'is sent') ??
				(operation.output && roundTrip(answerModel(found), 'is answered')) ??
				(await judged(found, registry.model(found), xml));
			if (fault) return `${operation.key}: ${fault}`;
		}
	}
	return undefined;
}

/** What a sample says is what is read again of the envelope that is written of it. */
function roundTrip(model: SoapModel, what: string): string | undefined {
	for (const kind of ['minimal', 'telling', 'full'] as const) {
		const { stopped, ...values } = sampleValues(model, kind);
		const { text, problems } = writeEnvelope(model, values);
		if (stopped !== undefined || problems.length > 0) continue;
		const { values: read } = readEnvelope(model, text);
		const again = writeEnvelope(model, {
			values: read,
			...(values.headers ? { headers: values.headers } : {})
		} as SoapValues);
		if (again.text !== text)
			return `what ${what} (${kind}) is another thing when it is read: ${text} → ${again.text}`.slice(0, 1500);
	}
	return undefined;
}

async function judged(
	found: FoundOperation,
	model: SoapModel,
	xml: ReturnType<typeof createXml>
): Promise<string | undefined> {
	const { stopped: _, ...values } = sampleValues(model, 'minimal');
	await contractFaults(writeEnvelope(model, values).text, 'input', found, xml);
	if (found.operation.output) {
		const { stopped: __, ...answer } = sampleValues(answerModel(found), 'full');
		await contractFaults(writeAnswer(found, answer).text, 'output', found, xml);
	}
	await contractFaults(writeFault(found, { code: 'Client', reason: 'no' }).text, 'output', found, xml);
	return undefined;
}
