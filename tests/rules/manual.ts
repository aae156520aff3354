import { credentialKinds } from '#core/auth/index.ts';
import { bodyKinds } from '#core/bodies/index.ts';
import { checkKinds, relationKinds, requestChecks } from '#core/checks/index.ts';
import { messageOf, type MessageCode } from '#core/messages.ts';
import type { Json } from '#core/model/json.ts';
import { selectorKinds } from '#core/selectors/index.ts';
import { stepKinds } from '#core/steps/index.ts';
import { functions } from '#core/values/index.ts';
import { examples } from '#core/wording/examples.ts';
import { areas } from '#core/wording/index.ts';
import { stringify } from 'yaml';
import { commands } from '../../src/cli/commands.ts';

/** A table of the manual that is made from the code: where it stands, its head, and its rows. */
export interface Table {
	file: string;
	name: string;
	head: string[];
	rows: string[][];
}

const code = (text: string) => `\`${text}\``;
const flow = (value: Json) => stringify(value, { collectionStyle: 'flow', lineWidth: 0 }).trim();
const sentence = (text: string) => (text && !/[.!?]$/.test(text) ? `${text}.` : text);

const checkRows = (kinds: readonly { key: string; doc: string; example: Json }[]) =>
	kinds.map(({ key, doc, example }) => [code(key), doc, code(flow(example))]);

/** What is made up and takes something. */
const MADE_BY: Record<string, [what: string, example: string]> = {
	integer: ['made up, by the run’s seed', code('$fake.integer(1, 14)')],
	choice: ['one of several, by the run’s seed', code('$fake.choice("A-01", "B-02")')],
	matching: ['a text that a pattern matches', code('$fake.matching("[A-Z]-[0-9]{2}")')]
};

/** A code's sentence as people meet it: with an example of each value. */
const shown = (key: MessageCode) => messageOf(key, examples[key]).replace(/&/g, '&amp;').replace(/</g, '&lt;');

/** The tables, in the order of the manual. */
export const tables: Table[] = [
	{
		file: 'docs/values.md',
		name: 'functions',
		head: ['function', 'what', 'example'],
		rows: [
			...functions.list.map(({ name, takes, doc, example }) => [
				code(`$${name}(${takes.join(', ')})`),
				doc,
				code(example.expression)
			]),
			...functions.fakeKinds.map((name) => [
				code(`$fake.${name}()`),
				...(MADE_BY[name] ?? ['made up, by the run’s seed', ''])
			])
		]
	},
	{ file: 'docs/checks.md', name: 'subjects', head: ['subject', 'what', 'example'], rows: checkRows(checkKinds) },
	{
		file: 'docs/checks.md',
		name: 'checks of a request',
		head: ['check', 'what', 'example'],
		rows: checkRows(requestChecks.filter((kind) => !(checkKinds as readonly unknown[]).includes(kind)))
	},
	{
		file: 'docs/checks.md',
		name: 'relations',
		head: ['relation', 'holds for', 'example'],
		rows: relationKinds.map(({ name, label, doc, example: { value, expected } }) => [
			code(name),
			doc,
			[code(flow(value)), label, ...(expected === true ? [] : [code(flow(expected))])].join(' ')
		])
	},
	{
		file: 'docs/checks.md',
		name: 'selectors',
		head: ['selector', 'what', 'example'],
		rows: selectorKinds.map(({ name, doc, example }) => [name, doc, code(example)])
	},
	{
		file: 'docs/compose.md',
		name: 'bodies',
		head: ['body', 'what', 'example'],
		rows: checkRows(bodyKinds.map(({ key, doc, example }) => ({ key, doc, example: { [key]: example } })))
	},
	{ file: 'docs/compose.md', name: 'steps', head: ['step', 'what', 'example'], rows: checkRows(stepKinds) },
	...credentialKinds
		.filter(({ fields }) => fields.length > 0)
		.map(({ key, fields }) => ({
			file: 'docs/credentials.md',
			name: `fields of ${key}`,
			head: ['field', 'what'],
			rows: fields.map((field) => [
				code(field.name),
				[
					`${field.label}${field.required ? ', needed' : ''}.`,
					sentence(field.doc),
					...(field.choices ? [`One of ${field.choices.join(', ')}.`] : []),
					...(field.otherwise !== undefined ? [`Left out: ${sentence(field.otherwise)}`] : [])
				]
					.filter(Boolean)
					.join(' ')
			])
		})),
	...commands.map(({ name, options }) => ({
		file: 'docs/command.md',
		name: `options of ${name}`,
		head: ['option', 'what'],
		rows: Object.entries(options).map(([option, { value, doc, see }]) => [
			code([`--${option}`, value].filter(Boolean).join(' ')),
			[doc.replace(/(?:heron \w+ )?--[\w-]*\w(?: \w+=\w+)?/g, code), see && `(${see})`].filter(Boolean).join(' ')
		])
	})),
	...Object.entries(areas).map(([name, wordings]) => ({
		file: 'docs/errors.md',
		name: `errors: ${name}`,
		head: ['code', 'such as'],
		rows: (Object.keys(wordings) as MessageCode[]).map((key) => [code(key), shown(key)])
	}))
];

const line = (cells: string[]) =>
	`| ${cells.map((text) => text.replace(/\|/g, '\\|').replace(/\s+/g, ' ')).join(' | ')} |`;

/** The text of a page with a table in its place: behind the comment that names it. @throws Error where there is none */
export function withTable(page: string, { name, head, rows }: Table): string {
	const mark = `<!-- ${name}: made by npm run manual -->\n`;
	const at = page.indexOf(mark);
	if (at < 0) throw new Error(`no place for the table: ${mark}`);
	const from = at + mark.length;
	const end = /^(?!\|)/m.exec(page.slice(from))?.index ?? 0;
	const text = [line(head), line(head.map(() => '---')), ...rows.map(line)].map((one) => `${one}\n`).join('');
	return page.slice(0, from) + text + page.slice(from + end);
}
