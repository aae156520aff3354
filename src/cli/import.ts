import { HeronError, problemLine, type Problem } from '#core/errors.ts';
import { counted } from '#core/messages.ts';
import { filesNamedIn, planDefinitions } from '#core/definitions/index.ts';
import type { ImportOrder } from '#core/imports/index.ts';
import { LOCAL_FILE } from '#core/documents/local.ts';
import { looksLikeOpenapi } from '#core/openapi/index.ts';
import type { DefinitionPlan, Offer } from '#core/model/definition-plan.ts';
import { idOf, nameFrom, xmlFileText, type GivenFile } from '#core/soap/index.ts';
import { readFolder, unpackDefinitions, type ProjectFolder } from '#server/engine/index.ts';
import { existsSync, readdirSync, readFileSync, realpathSync, statSync } from 'node:fs';
import { basename, dirname, join, relative, resolve, sep } from 'node:path';
import { one, type Flags, type Io } from './command.ts';
import { fetchFor } from './fetch.ts';
import { nameGiven, openProject, writeDocuments, writeInto } from './project.ts';
import { importRecording } from './recording.ts';
import { callServer } from './remote.ts';

const isAddress = (text: string): boolean => /^https?:\/\//i.test(text);

/** `heron import FOLDER`: a project into a server; `heron import FILE`: a definition into a project. */
export async function importAny(io: Io, names: string[], flags: Flags): Promise<number> {
	const [given, ...more] = names;
	if (!given || more.length > 0) throw new HeronError('usage.import');
	if (isAddress(given)) return importDefinition(io, given, flags);
	if (!existsSync(given)) throw new HeronError('path.none', { path: given });
	if (/\.har$/i.test(given) && statSync(given).isFile()) return importRecording(io, given, flags);
	const isFolder = statSync(given).isDirectory();
	if (isFolder && (existsSync(join(given, 'heron.yaml')) || !holdsDefinition(given)))
		return importFolder(io, given, flags);
	return importDefinition(io, given, flags);
}

async function importFolder(io: Io, folder: string, flags: Flags): Promise<number> {
	const dir = resolve(folder);
	const project = readFolder(dir);
	const name =
		one(flags, 'name') ??
		basename(dir)
			.toLowerCase()
			.replace(/[^a-z0-9-]+/g, '-');
	// values of this machine stay on it
	const files = project.paths
		.filter((path) => path !== LOCAL_FILE)
		.map((path) => ({
			path,
			base64: Buffer.from(project.readFile(path) ?? []).toString('base64')
		}));
	const done = await callServer<{ problems: Problem[] }>(flags, '/projects', {
		name,
		files,
		replace: flags.replace === true,
		...(one(flags, 'vault') === undefined ? {} : { vault: one(flags, 'vault') })
	});
	for (const problem of done.problems) io.err(`${problemLine(problem)}\n`);
	io.out(
		`${name}: ${counted(files.length, 'file')} imported${done.problems.length ? `, ${counted(done.problems.length, 'problem')}` : ''}\n`
	);
	return 0;
}

const DEEPEST = 6;
const MOST_FILES = 500;

/** The definitions and schemas below a folder. */
function filesBelow(dir: string, deep = 0): string[] {
	return readdirSync(dir, { withFileTypes: true }).flatMap((entry) => {
		if (entry.name.startsWith('.') || entry.name === 'node_modules') return [];
		const full = join(dir, entry.name);
		if (entry.isDirectory()) return deep < DEEPEST ? filesBelow(full, deep + 1) : [];
		// a link could lead anywhere
		return entry.isFile() && /\.(wsdl|xsd|json|ya?ml)$/i.test(entry.name) ? [full] : [];
	});
}
const holdsDefinition = (dir: string): boolean =>
	filesBelow(dir).some((path) => /\.wsdl$/i.test(path) || looksLikeOpenapi(readFileSync(path, 'utf8')));

/** A file with those that it names below a folder, by their paths on disk; others are told. */
function withImports(file: string, below: string, tell: (path: string) => void): string[] {
	const root = realpathSync(below);
	const isBelow = (path: string) => path.startsWith(root.endsWith(sep) ? root : root + sep);
	const found = [resolve(file)];
	for (let at = 0; at < found.length && found.length < MOST_FILES; at++)
		for (const location of filesNamedIn(xmlFileText(readFileSync(found[at]!)))) {
			if (/^[a-z][a-z0-9+.-]*:\/\//i.test(location)) continue;
			const path = resolve(dirname(found[at]!), location);
			if (found.includes(path) || !existsSync(path) || !statSync(path).isFile()) continue;
			// a link leads no further, either
			if (isBelow(realpathSync(path))) found.push(path);
			else tell(location);
		}
	return found;
}

/** The folder that all paths have in common. */
function common(paths: string[]): string {
	let dir = dirname(paths[0]!);
	while (paths.some((path) => !path.startsWith(dir + sep)) && dirname(dir) !== dir) dir = dirname(dir);
	return dir;
}

function readGiven(given: string, below: string, tell: (path: string) => void): GivenFile[] {
	const paths = statSync(given).isDirectory() ? filesBelow(resolve(given)) : withImports(given, below, tell);
	if (paths.length > MOST_FILES)
		throw new HeronError('definition.none', {
			detail: `${given} holds more than ${MOST_FILES} definitions and schemas`
		});
	const root = statSync(given).isDirectory() ? resolve(given) : common(paths);
	return unpackDefinitions(
		paths.map((path) => ({
			path: relative(root, path).split(sep).join('/'),
			bytes: new Uint8Array(readFileSync(path))
		}))
	);
}

/** A definition into a project. @param given a file, a folder, a ZIP or an address */
export async function importDefinition(io: Io, given: string, flags: Flags): Promise<number> {
	const folder = openProject(flags);
	const name = nameGiven(flags, nameFrom(isAddress(given) ? new URL(given).pathname : given));
	const connection = one(flags, 'connection') ?? '';
	if (connection && !folder.workspace.connections.has(connection))
		throw new HeronError('model.reference', { kind: 'connection', name: connection, nearest: '' });
	const fetched = isAddress(given)
		? await fetchFor(io, given, `definitions/${name}`, connection, folder, flags)
		: undefined;
	for (const { address, detail } of fetched?.missing ?? []) io.err(`warning: ${address}: ${detail}\n`);
	const below = one(flags, 'root') ?? dirname(given);
	if (!isAddress(given) && !existsSync(below)) throw new HeronError('path.none', { path: below });
	const outside = (path: string) =>
		io.err(`warning: ${path} lies outside of ${below} and was not read: --root DIR says how far references may lead\n`);
	const order: ImportOrder = {
		name,
		unnamed: one(flags, 'name') === undefined,
		connection,
		...(isAddress(given) ? { address: given } : {}),
		files: fetched?.files ?? readGiven(given, below, outside),
		workspace: folder.workspace,
		readFile: folder.readFile,
		valueOf: (path) => folder.documents.get(path)?.value
	};
	let plans = planDefinitions(order);
	const offers = plans.flatMap((plan) => plan.offers);
	const choose = offers.length > 0 ? chosenBy(offers, flags) : undefined;
	const fix = flags.mend === true ? ('all' as const) : undefined;
	if (choose || fix) plans = planDefinitions({ ...order, ...(choose ? { choose } : {}), ...(fix ? { fix } : {}) });
	for (const plan of plans) {
		for (const { file, line, message } of plan.problems) io.err(`warning: ${file}:${line}: ${message}\n`);
		if (flags.rehearse !== true) write(folder, plan);
		tell(io, plan);
	}
	return 0;
}

/** Keys of the scenarios that flags choose; undefined where they say nothing. */
function chosenBy(offers: Offer[], flags: Flags): string[] | undefined {
	if (flags['no-scenarios'] === true) return [];
	const words = (flags.only as string[] | undefined) ?? [];
	const singly = flags.singly === true;
	if (words.length === 0 && !singly) return undefined;
	for (const word of words)
		if (!offers.some((one) => speaksOf(one, word))) throw new HeronError('usage.noOperation', { word });
	const wanted = offers.filter((one) => words.length === 0 || words.some((word) => speaksOf(one, word)));
	const chains = singly ? [] : wanted.filter((one) => one.why !== '').map(({ key }) => key);
	// what a chain calls is not called once more by itself
	return [...chains, ...wanted.filter((one) => one.why === '' && !chains.includes(one.chain)).map(({ key }) => key)];
}
function speaksOf({ key, id, tags, operations }: Offer, word: string): boolean {
	const path = word.startsWith('/') ? word : undefined;
	return (
		key === word ||
		id === idOf(word) ||
		tags.some((tag) => tag.toLowerCase() === word.toLowerCase()) ||
		operations.some((operation) => {
			const own = operation.slice(operation.indexOf(' ') + 1);
			return (
				operation === word ||
				(path !== undefined &&
					(path.endsWith('*') ? own.startsWith(path.slice(0, -1).replace(/\/$/, '')) : own === path))
			);
		})
	);
}

function write(folder: ProjectFolder, plan: DefinitionPlan): void {
	// what may be refused goes first
	writeDocuments(folder, plan.writes);
	for (const { path, bytes } of plan.files) writeInto(folder, path, bytes);
}

/** So many of a kind are named; the others are counted. */
const MOST_NAMED = 40;
const few = (names: string[]): string =>
	names.length > MOST_NAMED
		? `${names.slice(0, MOST_NAMED).join(', ')} and ${names.length - MOST_NAMED} more`
		: names.join(', ');
/** So many changes are told of what no step calls. */
const MOST_CHANGES = 40;

function tell(io: Io, plan: DefinitionPlan): void {
	io.out(`${plan.file}: ${counted(new Set(plan.operations.map(({ key }) => key)).size, 'operation')}\n`);
	for (const path of plan.made) io.out(`  made      ${path}\n`);
	if (plan.bound.length > 0) io.out(`  bound     ${plan.bound.join(', ')}: definition: says now which one is meant\n`);
	if (plan.added.length > 0) io.out(`  added     ${few(plan.added.map((id) => `${plan.name}/${id}`))}\n`);
	const chains = plan.offers.filter((one) => one.chosen && one.why !== '');
	for (const { id, why } of chains.slice(0, MOST_NAMED)) io.out(`  chain     ${plan.name}/${id}: ${why}\n`);
	if (chains.length > MOST_NAMED) io.out(`  and ${counted(chains.length - MOST_NAMED, 'chain')} more\n`);
	const same = plan.offers.filter((one) => !one.chosen && one.sameAs);
	if (same.length > 0)
		io.out(`  the same  ${few(same.map(({ operations, sameAs }) => `${operations.join()} as ${sameAs}`))}\n`);
	const left = new Set(plan.offers.filter((one) => !one.chosen && !one.sameAs).flatMap((one) => one.operations));
	for (const one of plan.offers) if (one.chosen) for (const operation of one.operations) left.delete(operation);
	if (left.size > 0) io.out(`  left out  ${counted(left.size, 'operation')}: --only takes them in\n`);
	if (plan.kept.length > 0) io.out(`  kept      ${few(plan.kept)} (called already)\n`);
	const shownChanges = plan.changes.filter(({ steps }, at) => steps.length > 0 || at < MOST_CHANGES);
	for (const { key, version, change, level, what, steps } of shownChanges)
		io.out(
			`  ${change.padEnd(9)} ${key}${version ? ` (SOAP ${version})` : ''}${level && level !== 'harmless' ? `, ${level}` : ''}${what.length ? `: ${what.join('; ')}` : ''}${steps.length ? `; called by ${steps.join(', ')}` : ''}\n`
		);
	for (const { label, steps, chosen } of plan.fixes)
		io.out(
			`  ${chosen ? 'mended' : 'mend'.padEnd(6)}    ${label}: ${few(steps)}${chosen ? '' : ' (--mend does so)'}\n`
		);
	const more = plan.changes.length - shownChanges.length;
	if (more > 0) io.out(`  and ${counted(more, 'change')} more of what no step calls\n`);
	const wants = plan.operations.filter((operation) => operation.wants.length > 0);
	for (const { key, wants: asked } of wants.filter(
		(operation, at) => wants.findIndex((other) => other.key === operation.key) === at
	))
		io.out(`  wants     ${key}: ${asked.join(', ')}\n`);
}
