import { HeronError } from '#core/errors.ts';
import { didYouMean } from '#core/messages.ts';
import { exactNumber, type JsonObject } from '#core/model/json.ts';
import { datasetFile, parseTake } from '#core/model/rows.ts';
import type { Gate, Suite } from '#core/documents/suite.ts';
import { namesUsed, type Workspace } from '#core/project/index.ts';
import { parseShard, type RowsChoice, type Shard } from '#core/run/index.ts';
import { withFile, type DataSource, type ProjectFolder } from '#server/engine/index.ts';
import { isInCheckout, versionOf } from '#server/folder/version.ts';
import { existsSync } from 'node:fs';
import { resolve } from 'node:path';
import { one, type Flags, type Io } from './command.ts';
import { readResult } from './result-file.ts';

/** `--shard 2/3`. @throws HeronError usage.* */
export function shardIn(flags: Flags): Shard | undefined {
	const text = one(flags, 'shard');
	if (text === undefined) {
		if (flags.timings !== undefined) throw new HeronError('usage.timings');
		return undefined;
	}
	const shard = parseShard(text);
	if (!shard)
		throw new HeronError('usage.option', { option: 'shard', wanted: 'a part of a number, such as 2/3', given: text });
	return shard;
}

/** How long scenarios took in an earlier run, by its JSON result; a file that is not there yet says nothing. */
export async function timesIn(flags: Flags): Promise<Map<string, number>> {
	const file = one(flags, 'timings');
	if (file === undefined || !existsSync(file)) return new Map();
	const { tail } = await readResult(file);
	return new Map(
		tail.outcomes.filter(({ outcome }) => outcome !== 'skipped').map(({ scenario, ms }) => [scenario, ms])
	);
}

/** Of a part of a run only what counts in a part: what it is compared with, and shares of it, are of the whole. */
export function partGate(suite: Suite | undefined): Gate | undefined {
	if (!suite) return undefined;
	const { failed, errors, contract } = suite.gate;
	return {
		against: '',
		...(failed === undefined ? {} : { failed }),
		...(errors === undefined ? {} : { errors }),
		...(contract === undefined ? {} : { contract })
	};
}

/** Where rows come from: a dataset of the project, or any file by its path. */
export function rowsOf(folder: ProjectFolder, flags: Flags): { data: DataSource; choice: RowsChoice } {
	const take = one(flags, 'rows');
	if (take !== undefined && !parseTake(take))
		throw new HeronError('usage.option', {
			option: 'rows',
			wanted: 'numbers and ranges such as 1-10,15 or 20-',
			given: take
		});
	const choice: RowsChoice = take === undefined ? {} : { take };
	const name = one(flags, 'data');
	if (name === undefined) return { data: folder.data, choice };
	if ('path' in datasetFile(name, folder.data.files()) || !existsSync(name))
		return { data: folder.data, choice: { ...choice, data: name } };
	const { source, data } = withFile(folder.data, resolve(name));
	return { data: source, choice: { ...choice, data } };
}

/** `--set NAME=VALUE`: a number, true, false or null keeps its type, everything else is text. */
export function setOf(flags: Flags): JsonObject {
	const set: JsonObject = {};
	for (const text of (flags.set as string[] | undefined) ?? []) {
		const at = text.indexOf('=');
		if (at < 1) throw new HeronError('usage.option', { option: 'set', wanted: 'NAME=VALUE', given: text });
		const value = text.slice(at + 1);
		const typed =
			/^-?(0|[1-9]\d*)(\.\d+)?$/.test(value) && value.length <= 400
				? exactNumber(value)
				: { true: true, false: false, null: null }[value];
		set[text.slice(0, at)] = typed === undefined ? value : typed;
	}
	return set;
}

/** Says which names of `--set` nothing asks for: with a slip of the pen a run would go by the value that it had. */
export function tellUnasked(io: Io, workspace: Workspace, set: JsonObject): void {
	const given = Object.keys(set);
	if (given.length === 0) return;
	const { env, open } = namesUsed(workspace);
	if (open) return;
	const variables = [workspace.project, ...workspace.environments.values()].flatMap((one) =>
		Object.keys(one.variables)
	);
	const known = [...new Set([...env, ...variables])];
	for (const name of given)
		if (!known.includes(name))
			io.err(`warning: --set ${name}: nothing asks for a variable of this name${didYouMean(name, known)}\n`);
}

/** What a checkout says of itself, where no options do. */
export async function versionHere(dir: string, flags: Flags): Promise<{ commit: string; branch: string }> {
	const given = one(flags, 'commit') !== undefined && one(flags, 'branch') !== undefined;
	const state = given || !isInCheckout(dir) ? undefined : await versionOf(dir);
	if (!state) return { commit: '', branch: '' };
	return {
		commit: state.commit && `${state.commit}${state.changed.size > 0 ? ' with changes' : ''}`,
		branch: state.branch
	};
}
