import { HeronError } from '#core/errors.ts';
import { counted } from '#core/messages.ts';
import { writeJson } from '#core/model/json.ts';
import {
	compareDefinitions,
	LEVELS,
	readOpenapi,
	type DefinitionChange,
	type OpenapiDocument
} from '#core/openapi/index.ts';
import { tame } from '#core/tame.ts';
import { decodeText } from '#core/values/index.ts';
import { existsSync, readFileSync, realpathSync, statSync } from 'node:fs';
import { basename, dirname, join, sep } from 'node:path';
import { one, type Flags, type Io } from './command.ts';
import { fetchFor } from './fetch.ts';
import { openProject } from './project.ts';

const MOST_BYTES = 100_000_000;
const isAddress = (given: string): boolean => /^https?:\/\//i.test(given);

/** A document with what lies beside it: references lead nowhere else. */
function documentOf(path: string): OpenapiDocument {
	if (!existsSync(path) || !statSync(path).isFile()) throw new HeronError('file.none', { path });
	const root = realpathSync(dirname(path));
	return readOpenapi(`definitions/${basename(path)}`, (named) => {
		const file = join(root, named.replace(/^definitions\//, ''));
		if (!existsSync(file)) return undefined;
		const real = realpathSync(file);
		if (!real.startsWith(root + sep) || !statSync(real).isFile() || statSync(real).size > MOST_BYTES) return undefined;
		return decodeText(readFileSync(real)).text;
	});
}

/** A document of an address, with what it refers to at the same host; over a connection of the project where one is named. */
async function fetchedDocument(io: Io, address: string, flags: Flags): Promise<OpenapiDocument> {
	const here = one(flags, 'project') !== undefined || existsSync('heron.yaml');
	const folder = here ? openProject(flags) : undefined;
	const connection = one(flags, 'connection') ?? '';
	if (connection && !folder?.workspace.connections.has(connection))
		throw new HeronError('model.reference', { kind: 'connection', name: connection, nearest: '' });
	const { files, missing } = await fetchFor(io, address, 'definitions', connection, folder, flags);
	for (const { address: lost, detail } of missing) io.err(`warning: ${tame(lost)}: ${tame(detail)}\n`);
	const texts = new Map(files.map(({ path, bytes }) => [path, decodeText(bytes).text]));
	return readOpenapi(files[0]!.path, (path) => texts.get(path));
}

/** `heron compare OLD NEW`: 0 when nothing breaks, 1 when something does, 2 for what cannot be read. */
export async function compare(io: Io, names: string[], flags: Flags): Promise<number> {
	const [old, fresh, ...more] = names;
	if (!old || !fresh || more.length > 0) throw new HeronError('usage.compare');
	const level = one(flags, 'level') ?? 'breaking';
	const until = LEVELS.indexOf(level as 'breaking');
	if (until < 0)
		throw new HeronError('usage.option', { option: 'level', wanted: `one of ${LEVELS.join(', ')}`, given: level });
	const read = (given: string) => (isAddress(given) ? fetchedDocument(io, given, flags) : documentOf(given));
	const changes = compareDefinitions(await read(old), await read(fresh));
	const counts = LEVELS.map((one) => changes.filter((change) => change.level === one).length);
	if (flags.json === true) io.out(`${writeJson({ heron: 1, changes } as never)}\n`);
	else {
		for (const line of linesOf(changes, flags.quiet === true)) io.out(`${tame(line)}\n`);
		const words = LEVELS.map((one, index) => `${counts[index]} ${one}`).join(', ');
		io.out(
			changes.length === 0
				? 'nothing is different for who calls it\n'
				: `${counted(changes.length, 'change')}: ${words}\n`
		);
	}
	return counts.slice(0, until + 1).some((count) => count > 0) ? 1 : 0;
}

/** Changes by their level and operation. */
function linesOf(changes: readonly DefinitionChange[], quiet: boolean): string[] {
	const out: string[] = [];
	for (const level of LEVELS) {
		if (quiet && level === 'harmless') continue;
		const own = changes.filter((one) => one.level === level);
		if (own.length === 0) continue;
		out.push(level);
		let last: string | undefined;
		for (const { operation, place, text, rule } of own) {
			if (operation !== last) out.push(`  ${operation || 'the whole'}`);
			last = operation;
			out.push(`    ${[place, text].filter(Boolean).join(': ')} (${rule})`);
		}
	}
	return out;
}
