import type { DefinitionPlan } from '../model/definition-plan.ts';
import type { ImportOrder } from '../imports/index.ts';
import { nameOf } from '../openapi/index.ts';
import type { Workspace } from '../project/index.ts';
import { readSource, SOURCE_FILE } from '../soap/index.ts';

/** Names of files that say nothing of the service that they define. */
const SAYS_NOTHING =
	/^(open-?api|swagger|api|api-?docs?|docs?|v\d+(-\d+)*|services?|ws|wsdl|soap|schema|spec|definition|index|json|ya?ml)$/;
const LONGEST = 40;

/** A name for files by the title of a service; empty where it holds no letter that such a name can hold. */
const nameOfTitle = (title: string): string =>
	title
		.normalize('NFD')
		.replace(/\p{M}/gu, '')
		.replace(/([a-z\d])([A-Z])/g, '$1 $2')
		.toLowerCase()
		.replace(/[^a-z\d]+/g, ' ')
		.trim()
		.split(' ')
		.reduce((name, word) => (`${name}-${word}`.length > LONGEST ? name : `${name}-${word}`))
		.slice(0, LONGEST);

/** A definition that the project has. */
interface Known {
	file: string;
	title: string;
	/** What its operations are known by. */
	keys: string[];
}

const keysOf = (key: string, id: string): string[] => (id ? [key, `id ${id}`] : [key]);
const folderOf = (name: string): string => `definitions/${name}/`;

/** The definitions that a project has under a name, as far as they can be read. */
function knownBy(name: string, { openapis, wsdls }: Workspace): Known[] {
	const rest = openapis.all().flatMap(({ file, definition }): Known[] => {
		if (!definition) return [];
		return [
			{
				file,
				title: definition.document.title,
				keys: definition.operations.flatMap((one) => keysOf(nameOf(one), one.id))
			}
		];
	});
	const soap = wsdls.all().flatMap(({ file, definition }): Known[] => {
		if (!definition) return [];
		const title = definition.operations[0]?.service ?? definition.plain[0]?.service ?? '';
		return [{ file, title, keys: definition.operations.map(({ key }) => key) }];
	});
	return [...rest, ...soap].filter(
		({ file }) => file.startsWith(`definitions/${name}.`) || file.startsWith(folderOf(name))
	);
}

/**
 * What a project has under a name of which a plan is no newer version; undefined where it may have the name.
 * @param byTitle the same title says that it is the same service; of little worth where many frameworks write one of their own
 */
function strangerTo(plan: DefinitionPlan, name: string, given: ImportOrder, byTitle: boolean): Known | undefined {
	// workflows speak of definitions, and stand beside them
	if (!plan.file.startsWith('definitions/')) return undefined;
	const known = knownBy(name, given.workspace);
	const source = readSource(given.readFile(folderOf(name) + SOURCE_FILE));
	if (given.address && source?.address === given.address) return undefined;
	const keys = new Set(plan.operations.flatMap(({ key, id = '' }) => keysOf(key, id)));
	const isSame = (one: Known): boolean =>
		(byTitle && one.title.toLowerCase() === plan.title.toLowerCase()) ||
		// different services may have some calls in common, such as GET /health
		one.keys.filter((key) => keys.has(key)).length * 2 >= Math.min(one.keys.length, keys.size);
	return known.some(isSame) ? undefined : known[0];
}

/** Says where a definition takes the place of another service. */
export function withReplaced(plans: DefinitionPlan[], given: ImportOrder): DefinitionPlan[] {
	const [plan] = plans;
	const other = plan && plans.length === 1 ? strangerTo(plan, given.name, given, true) : undefined;
	if (!plan || !other) return plans;
	const message = `${other.file} has been another service so far${titled(other)}: this one takes its name, and the calls of both are in one collection`;
	return [{ ...plan, problems: [{ file: plan.file, line: 1, message }, ...plan.problems] }];
}
const titled = ({ title }: Known): string => (title ? ` (${title})` : '');

/**
 * Plans an import whose name is that of the file, because nobody chose one. Where the file's name says nothing of the service,
 * or another service is called so, the service's own title gives the name.
 */
export function planUnnamed(given: ImportOrder, plansOf: (given: ImportOrder) => DefinitionPlan[]): DefinitionPlan[] {
	const plans = plansOf(given);
	const [plan] = plans;
	if (!plan || plans.length > 1) return plans;
	const telling = !SAYS_NOTHING.test(given.name);
	const other = strangerTo(plan, given.name, given, telling);
	const known = knownBy(given.name, given.workspace).length > 0;
	if (!other && (known || telling)) return plans;
	const wanted = nameOfTitle(plan.title) || given.name;
	let name = wanted;
	for (let n = 2; strangerTo(plan, name, given, false); n++) name = `${wanted}-${n}`;
	if (name === given.name) return plans;
	const files = given.files.map(({ path, bytes }) => {
		const [from, to] = [folderOf(given.name), folderOf(name)];
		return { path: path.startsWith(from) ? to + path.slice(from.length) : path, bytes };
	});
	const [renamed] = plansOf({ ...given, name, files });
	if (!other) return [renamed!];
	const message = `${other.file} is another service${titled(other)}: this one is called ${name}`;
	return [{ ...renamed!, problems: [{ file: renamed!.file, line: 1, message }, ...renamed!.problems] }];
}
