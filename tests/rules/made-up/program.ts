import { filesNamedIn, planDefinitions } from '#core/definitions/index.ts';
import type { JsonObject } from '#core/model/json.ts';
import { documentKinds, schemaOfKind } from '#core/documents/kinds.ts';
import { loadProject } from '#core/project/index.ts';
import { reportKind } from '#core/reports/index.ts';
import { stepKinds } from '#core/steps/index.ts';
import { createDatasets, memorySource } from '#server/engine/datasets/index.ts';
import { stringify } from 'yaml';
import { commands } from '../../../src/cli/commands.ts';
import { runCommand } from '../../../src/cli/command.ts';
import { get, run } from '../../support/scripted.ts';

// Built into one program together with kinds that are made up, each added to its list.

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

function project(files: Record<string, JsonObject>) {
	const sources = Object.entries(files).map(([path, value]) => ({ path, text: stringify({ heron: 1, ...value }) }));
	const loaded = loadProject(sources, new Set(Object.keys(files)));
	return { ...loaded, all: [...loaded.documents.values()].flatMap(({ problems }) => problems) };
}
const steps = (...list: JsonObject[]): JsonObject => ({
	'collections/x.yaml': { scenarios: [{ id: 's', steps: list }] }
});
const wrong = (files: Record<string, JsonObject>) => project(files).all.map(({ message }) => message);

async function ran(...list: JsonObject[]) {
	const { results, sent } = await run(list, { answer: () => ({ body: { n: 4 } }), variables: { lock: 'Staithe' } });
	const [first] = sent;
	return {
		outcomes: results.map(({ outcome }) => outcome),
		calls: results.map(({ call }) => call),
		checks: results.flatMap(({ checks }) => checks.map(({ relation, received, holds }) => [relation, received, holds])),
		url: sent.at(-1)?.url,
		body: first && new TextDecoder().decode(first.body)
	};
}

export async function step() {
	const { unresolved } = await run([{ id: 'a', tide: '{$env.nowhere}' }]);
	return {
		ran: await ran({ id: 'a', tide: '{$env.lock}' }, get('b', { query: { tide: '{$env.tide}' } })),
		wrong: wrong(steps({ id: 'a', tide: 3 }, { id: 'b', tide: 'x', wait: '1 s' }) as Record<string, JsonObject>),
		unresolved: unresolved.map(({ message }) => message),
		offered: stepKinds.some(({ key }) => key === 'tide'),
		schema: JSON.stringify(schemaOfKind(documentKinds.find(({ name }) => name === 'collection')!)).includes('"tide"')
	};
}

export const check = () => ran(get('a', { checks: [{ vowels: { above: 2 } }] }));
export const relation = () => ran(get('a', { checks: [{ body: '$.n', even: true }] }));
export const body = () => ran({ id: 'a', send: 'POST /a', body: { reversed: '{$env.lock}' } });
export const expressionFunction = () => ran(get('a', { query: { knots: '{$knots(18.52)}' } }));

export function credential() {
	return {
		wrong: wrong({ 'credentials/a.yaml': { kind: 'flag' }, 'credentials/b.yaml': { kind: 'flag', colours: 'red' } }),
		right: wrong({ 'credentials/a.yaml': { kind: 'flag', colours: '{$secret.colours}' } })
	};
}

export function rules() {
	const scenarios = ['a', 'b'].map((id) => ({
		id,
		steps: [{ id: 'x', send: 'GET /LOUD', checks: [{ status: 200 }] }]
	}));
	const { documents, workspace } = project({ 'collections/x.yaml': { scenarios } });
	const warnings = [...documents.values()].flatMap((one) => one.warnings ?? []);
	return [...warnings, ...workspace.warnings].map(({ code, path }) => `${code} ${path.join('.')}`);
}

export function report() {
	const sink = reportKind('count')!.open({ color: false, detail: 'normal', version: '1' });
	sink.event({ type: 'step' } as never);
	return sink.end({} as never, 0);
}

export function definition() {
	const { workspace } = project({});
	const files = [{ path: 'lock.timetable', bytes: bytes('timetable') }];
	const read = { readFile: () => undefined, valueOf: () => undefined };
	return {
		named: filesNamedIn('timetable of the lock'),
		plans: planDefinitions({ name: 'lock', files, workspace, connection: 'lock', ...read }).map(({ file }) => file)
	};
}

export async function dataset() {
	const source = memorySource(new Map([['datasets/berths.berths', bytes('A1\nA2\n')]]));
	const opened = await createDatasets(source)({ data: 'berths', names: {}, types: {}, read: {} });
	const rows: unknown[] = [];
	for await (const row of opened.rows()) rows.push(row.values);
	return rows;
}

export async function command() {
	let said = '';
	const out = (text: string) => void (said += text);
	const io = { out, err: out, raw: { out, err: out }, written: async () => undefined, env: {}, version: '1' };
	return { code: await runCommand(commands, 'hail', ['lock', '--loud'], io), said };
}
