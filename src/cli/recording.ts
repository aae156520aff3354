import { refuseUnread } from '#core/definitions/index.ts';
import { environmentsWith } from '#core/imports/index.ts';
import { HeronError } from '#core/errors.ts';
import {
	hostsOf,
	leftWords,
	planRecording,
	readHar,
	rowsOfRecording,
	usualChoice,
	type MadeRecording,
	type RecordedRow
} from '#core/exchange/index.ts';
import { counted } from '#core/messages.ts';
import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
import { freeName } from '#core/model/path.ts';
import { baseOf } from '#core/project/index.ts';
import { secretVariable } from '#core/run/index.ts';
import { nameFrom } from '#core/soap/index.ts';
import { readFileSync } from 'node:fs';
import { one, type Flags, type Io } from './command.ts';
import { nameGiven, openProject, writeDocuments } from './project.ts';

/** A recording (HAR) into a project: its calls are a scenario of a collection. */
export async function importRecording(io: Io, given: string, flags: Flags): Promise<number> {
	const folder = openProject(flags);
	const name = nameGiven(flags, nameFrom(given.replace(/\.har$/i, '')));
	const { workspace, documents } = folder;
	const { calls: list, notes } = readHar(readFileSync(given, 'utf8'));
	const rows = rowsOfRecording(list);
	const through = one(flags, 'connection');
	if (through !== undefined && !workspace.connections.has(through))
		throw new HeronError('model.reference', { kind: 'connection', name: through, nearest: '' });
	const usable = [...workspace.connections.values()].filter((own) => through === undefined || own.name === through);
	const connections = usable.map((connection) => ({
		name: connection.name,
		base: baseOf(workspace, connection)
	}));
	const known = new Set(connections.flatMap(({ base }) => (URL.canParse(base) ? [new URL(base).host] : [])));
	const chosen = chosenBy(rows, known, (flags.only as string[] | undefined) ?? []);
	if (chosen.length === 0)
		throw new HeronError('exchange.none', {
			detail: `of the ${counted(rows.length, 'call')} in ${given} none is taken`
		});
	const path = `collections/${name}.yaml`;
	refuseUnread(workspace, [path]);
	const valueOf = (own: string): Json | undefined => documents.get(own)?.value;
	const old = isObject(valueOf(path)) ? (valueOf(path) as JsonObject) : undefined;
	const scenarios = Array.isArray(old?.scenarios) ? (old.scenarios as Json[]) : [];
	const made = planRecording(list, chosen, {
		...{ connections, ids: [], secrets: new Set([...workspace.environments.values()].flatMap((one) => one.secrets)) },
		taken: new Set([...documents.keys()].map((own) => own.replace(/\.yaml$/, '')))
	});
	const usual = typeof old?.connection === 'string' ? old.connection : made.steps[0]!.connection;
	const id = freeName(
		'recorded',
		scenarios.map((own) => (isObject(own) ? String(own.id) : ''))
	);
	const scenario: JsonObject = {
		...{ id, title: 'As it was recorded' },
		steps: made.steps.map(({ step, connection }) => ({ ...step, ...(connection === usual ? {} : { connection }) }))
	};
	const writes = [
		...made.documents,
		...environmentsWith({ variables: {}, secrets: made.secrets.map((own) => own.name) }, workspace, valueOf),
		{
			path,
			value: { ...(old ?? { heron: 1, title: name, connection: usual }), scenarios: [...scenarios, scenario] }
		}
	];
	if (flags.rehearse !== true) writeDocuments(folder, writes);
	reportNotes(io, { ...made, notes: [...notes, ...made.notes] });
	io.out(`${name}/${id}: ${counted(made.steps.length, 'step')} of ${counted(rows.length, 'call')}\n`);
	for (const { path: own } of writes) if (valueOf(own) === undefined) io.out(`  made      ${own}\n`);
	for (const { from, to, selector, where } of made.threads)
		io.out(`  goes on   ${selector} of ${from} into the ${where} of ${to}\n`);
	reportLeft(
		io,
		rows.filter(({ index }) => !chosen.includes(index))
	);
	return 0;
}

function reportNotes(io: Io, made: MadeRecording): void {
	for (const note of made.notes) io.err(`note: ${note}\n`);
	if (made.secrets.length > 0)
		io.err(
			`note: what is secret stands in no file: give it as ${made.secrets.map((own) => secretVariable(own.name)).join(', ')}, or in a secrets file\n`
		);
}

/** Says which calls no step was made of. */
function reportLeft(io: Io, left: RecordedRow[]): void {
	for (const { host, calls } of hostsOf(left).slice(0, 20)) {
		const why = reasons(left.filter((row) => row.host === host));
		io.out(`  left out  ${counted(calls, 'call')} to ${host}${why && `: ${why}`}\n`);
	}
}

/** Why calls are left out, each reason once. */
function reasons(rows: RecordedRow[]): string {
	const counts = new Map<string, number>();
	for (const { left } of rows) if (left) counts.set(leftWords[left], (counts.get(leftWords[left]) ?? 0) + 1);
	return [...counts].map(([why, calls]) => (calls > 1 ? `${why} (${calls})` : why)).join('; ');
}

function chosenBy(rows: RecordedRow[], known: ReadonlySet<string>, words: string[]): number[] {
	if (words.length === 0) return usualChoice(rows, known);
	const speaks = ({ method, host, path }: RecordedRow, word: string): boolean => {
		const [, own = '', wanted = word] = /^([A-Z]+) (\/.*)$/.exec(word) ?? [];
		if (own && own !== method) return false;
		if (!wanted.startsWith('/')) return host === wanted;
		const plain = path.split('?')[0]!;
		return wanted.endsWith('*') ? plain.startsWith(wanted.slice(0, -1).replace(/\/$/, '')) : plain === wanted;
	};
	for (const word of words) if (!rows.some((row) => speaks(row, word))) throw new HeronError('usage.noCall', { word });
	// what is asked for by its path is meant, whatever it is
	return rows
		.filter((row) => words.some((word) => speaks(row, word) && (row.left === '' || /^([A-Z]+ )?\/.*[^*]$/.test(word))))
		.map(({ index }) => index);
}
