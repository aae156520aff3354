import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { getIn, setIn, type Path } from '../model/path.ts';
import { LOCAL_FILE } from '../documents/local.ts';
import { QUARANTINE_FILE } from '../documents/quarantine.ts';

interface Doc {
	path: string;
	value: Json;
}

/** Folders whose documents can be called otherwise. */
export type RenamedFolder = 'connections' | 'credentials' | 'environments' | 'collections' | 'suites' | 'stand-ins';
/** Folders whose documents can be called otherwise. */
export const RENAMED_FOLDERS: readonly RenamedFolder[] = [
	'connections',
	'credentials',
	'environments',
	'collections',
	'suites',
	'stand-ins'
];

/** A place where documents are named: `*` stands for any key; a last `KEY` for the keys themselves. */
type Place = [folder: RegExp, ...at: string[]];
const COLLECTIONS = /^collections\//;

/** Where documents of a folder are named by others. */
const PLACES: Record<RenamedFolder, Place[]> = {
	connections: [
		[COLLECTIONS, 'connection'],
		[COLLECTIONS, 'scenarios', '*', 'connection'],
		[COLLECTIONS, 'scenarios', '*', 'steps', '*', 'connection'],
		[/^credentials\//, 'connection'],
		[/^environments\//, 'standIns', 'KEY']
	],
	credentials: [
		[COLLECTIONS, 'credential'],
		[COLLECTIONS, 'scenarios', '*', 'credential'],
		[COLLECTIONS, 'scenarios', '*', 'steps', '*', 'credential'],
		[/^connections\//, 'credential'],
		[/^connections\//, 'environments', '*', 'credential'],
		[/^credentials\//, 'beside']
	],
	environments: [
		[/^heron\.yaml$/, 'environment'],
		[/^suites\//, 'environment'],
		[/^connections\//, 'environments', 'KEY'],
		[new RegExp(`^${LOCAL_FILE}$`), 'environments', 'KEY']
	],
	collections: [
		[COLLECTIONS, 'scenarios', '*', 'steps', '*', 'call'],
		[/^suites\//, 'scenarios', '*'],
		[/^heron\.yaml$/, 'order', '*'],
		[new RegExp(`^${QUARANTINE_FILE}$`), 'failures', '*', 'scenario']
	],
	suites: [],
	'stand-ins': [
		[COLLECTIONS, 'scenarios', '*', 'steps', '*', 'from'],
		[/^environments\//, 'standIns', '*']
	]
};

/** The paths of a value that a place with wildcards stands for. */
function pathsOf(value: Json | undefined, at: readonly string[], path: Path = []): Path[] {
	const [key, ...rest] = at;
	if (key === undefined) return [path];
	if (typeof value !== 'object' || value === null) return [];
	if (key !== '*') return pathsOf((value as Record<string, Json>)[key], rest, [...path, key]);
	return Array.isArray(value)
		? value.flatMap((one, index) => pathsOf(one as Json, rest, [...path, index]))
		: Object.entries(value as JsonObject).flatMap(([name, one]) => pathsOf(one, rest, [...path, name]));
}

/** A document in which another one is called otherwise wherever it is named. */
export function withDocumentRenamed({ path, value }: Doc, folder: RenamedFolder, from: string, to: string): Json {
	let next = value;
	for (const [where, ...at] of PLACES[folder]) {
		if (!where.test(path)) continue;
		if (at.at(-1) === 'KEY') {
			const holder = getIn(next, at.slice(0, -1));
			if (!isObject(holder) || !Object.hasOwn(holder, from)) continue;
			const entries = Object.entries(holder as JsonObject).map(([key, one]) => [key === from ? to : key, one]);
			next = setIn(next, at.slice(0, -1), Object.fromEntries(entries) as JsonObject);
		} else
			for (const place of pathsOf(next, at)) {
				const named = getIn(next, place);
				if (named === from && !(folder === 'collections' && place.at(-1) === 'call')) next = setIn(next, place, to);
				else if (folder === 'collections' && typeof named === 'string' && named.startsWith(`${from}/`))
					next = setIn(next, place, to + named.slice(from.length));
			}
	}
	return next;
}

/** Where datasets are named. */
const DATASET_PLACES: Place[] = [
	[COLLECTIONS, 'scenarios', '*', 'rows'],
	[COLLECTIONS, 'scenarios', '*', 'rows', 'data'],
	[COLLECTIONS, 'scenarios', '*', 'steps', '*', 'each'],
	[COLLECTIONS, 'scenarios', '*', 'steps', '*', 'each', 'data'],
	[/^stand-ins\//, 'answers', '*', 'row', 'from'],
	[/^stand-ins\//, 'stores', '*', 'from']
];
const DATASETS = 'datasets/';

/**
 * A document in which a dataset is called otherwise, by its name and by its path; what was written without ending or with the
 * folder stays so.
 *
 * @param isIt whether what `rows:` and the like name is the dataset
 * @param from the file's name so far, as `to` without its folder; `bare` stands where the ending was left out
 */
export function withDatasetRenamed(
	{ path, value }: Doc,
	isIt: (name: string) => boolean,
	{ from, to, bare }: { from: string; to: string; bare: string }
): Json {
	const written = (name: string): string => {
		const folder = name.startsWith(DATASETS) ? DATASETS : '';
		return folder + (name.slice(folder.length) === from ? to : bare);
	};
	let next = value;
	for (const [where, ...at] of DATASET_PLACES)
		for (const place of where.test(path) ? pathsOf(next, at) : []) {
			const named = getIn(next, place);
			if (typeof named === 'string' && isIt(named)) next = setIn(next, place, written(named));
		}
	return withText(next, DATASETS + from, DATASETS + to);
}

/** Data in which a text that is another one in whole stands in its place; the same where there is none. */
function withText(value: Json, from: string, to: string): Json {
	if (value === from) return to;
	if (Array.isArray(value)) {
		const next = value.map((one) => withText(one as Json, from, to));
		return next.some((one, index) => one !== value[index]) ? next : value;
	}
	if (!isObject(value)) return value;
	const entries = Object.entries(value as JsonObject).map(([key, one]) => [key, withText(one, from, to)] as const);
	return entries.some(([key, one]) => one !== (value as JsonObject)[key])
		? (Object.fromEntries(entries) as Json)
		: value;
}
