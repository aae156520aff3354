import { lookUp } from '../model/lookup.ts';
import { givenFor, keepName, kept, type Given } from './chain-values.ts';
import { expressionOf, linksOf, selectorOf, type Link } from './links.ts';
import { nameOf, type OpenapiOperation } from './operations.ts';
import { parametersOf, type Parameter } from './parameters.ts';
import { answersHeader } from './success.ts';
import { routeOf } from './variants.ts';

/** What a step of a chain does with the thing that it is about; `follow` is what an answer leads to. */
type Role = 'create' | 'find' | 'read' | 'replace' | 'change' | 'follow' | 'remove';

/** A parameter that takes what an earlier answer gives. */
interface Take {
	in: Parameter['in'];
	name: string;
	from: ChainStep;
	/** The expression that gives it; `$steps.ID` stands for the step that it is from. */
	value: string;
}

/** A step of a chain. */
export interface ChainStep {
	role: Role;
	operation: OpenapiOperation;
	/** It makes or finds what the others are about, and may do so in several chains. */
	setup: boolean;
	takes: Take[];
	/** What it keeps of its answer: selectors by names. */
	keeps: Record<string, string>;
}

/** Operations in an order that serves: what the first answers is what the others need. */
export interface Chain {
	steps: ChainStep[];
	/** Why it is believed that they belong together. */
	why: string;
}

const ROLES: Record<string, Role> = { GET: 'read', PUT: 'replace', PATCH: 'change', DELETE: 'remove' };
const ORDER: Role[] = ['create', 'find', 'read', 'replace', 'change', 'follow', 'remove'];
const SAFE = new Set(['GET', 'HEAD', 'OPTIONS']);
/** So many steps are what answers lead to, in a chain; and so many things are made before what is made in them. */
const MOST_FOLLOWED = 20;
const DEEPEST = 4;

/** What a path that ends in a parameter stands for: what gives it, and what takes it away. */
interface Thing {
	role: 'create' | 'find';
	first: OpenapiOperation;
	given: Given;
	remove: OpenapiOperation | undefined;
}

/**
 * Chains of operations: what is created, or found in a list, is read, changed and removed; what an answer leads to by the document's
 * links follows; what lies below a thing comes after that was created or, where it is only read, found. But for what sets a chain up
 * no operation is in two of them.
 *
 * @param all those of the document: what others do already may set a chain up, too
 */
export function chainsOf(operations: OpenapiOperation[], all: OpenapiOperation[] = operations): Chain[] {
	return new ChainFinder(operations, all).chains();
}

const pathOf = (one: OpenapiOperation): string => routeOf(one.template).replace(/\/+$/, '');

/** A place of a path that ends in a parameter: `/a/{x}/b/{y}` has two. */
interface Place {
	/** The path so far. */
	path: string;
	/** The same without the names of its parameters: one thing may be called otherwise in other paths. */
	shape: string;
	parameter: string;
}
const withoutNames = (path: string): string => path.replace(/\{[^{}]*\}/g, '{}');
const placesIn = (operation: OpenapiOperation): Place[] => {
	const whole = pathOf(operation);
	return [...whole.matchAll(/\/\{([^{}/]+)\}(?=\/|$)/g)].map((hit) => {
		const path = whole.slice(0, hit.index + hit[0].length);
		return { path, shape: withoutNames(path), parameter: hit[1]! };
	});
};

class ChainFinder {
	readonly #free: OpenapiOperation[];
	readonly #byPath = new Map<string, OpenapiOperation[]>();
	readonly #byShape = new Map<string, OpenapiOperation[]>();
	readonly #links: Map<OpenapiOperation, Link[]>;
	/** Those that are in a chain, but for what sets it up. */
	readonly #taken = new Set<OpenapiOperation>();
	readonly #things = new Map<string, Thing | undefined>();

	constructor(free: OpenapiOperation[], all: OpenapiOperation[]) {
		this.#free = free;
		this.#links = linksOf(all);
		for (const one of all) {
			const path = pathOf(one);
			addTo(this.#byPath, path, one);
			addTo(this.#byShape, withoutNames(path), one);
		}
	}

	chains(): Chain[] {
		const chains: Chain[] = [];
		const free = new Set(this.#free);
		for (const path of this.#byPath.keys()) {
			const chain = this.#ofThing(path, free);
			if (chain) chains.push(chain);
		}
		for (const chain of chains) this.#follow(chain, free);
		for (const operation of this.#free) {
			if (this.#taken.has(operation)) continue;
			const chain: Chain = { steps: [stepFor('follow', operation)], why: '' };
			this.#follow(chain, free);
			if (chain.steps.length === 1) continue;
			this.#taken.add(operation);
			chains.push(chain);
		}
		for (const chain of chains) this.#setUp(chain);
		for (const operation of this.#free) {
			if (this.#taken.has(operation)) continue;
			const chain: Chain = { steps: [stepFor('follow', operation)], why: '' };
			this.#setUp(chain);
			if (chain.steps.length > 1) chains.push(chain);
		}
		for (const { steps } of chains) takeTags(steps);
		return chains;
	}

	/** What is done with a thing from first to last. */
	#ofThing(path: string, free: ReadonlySet<OpenapiOperation>): Chain | undefined {
		const [, above = '', parameter] = /^(.*)\/\{([^{}/]+)\}$/.exec(path) ?? [];
		if (parameter === undefined) return undefined;
		const usable = (at: string) => (this.#byPath.get(at) ?? []).filter((one) => free.has(one) && !this.#taken.has(one));
		const others = usable(path).flatMap((operation) => {
			const role = lookUp(ROLES, operation.method);
			return role ? [stepFor(role, operation)] : [];
		});
		if (others.length === 0) return undefined;
		const beside = usable(above);
		for (const [role, method] of FIRST) {
			const first = beside.find((one) => one.method === method);
			// what is only found is not removed: it is somebody's
			const rest = role === 'create' ? others : others.filter((one) => one.role === 'read');
			if (!first || rest.length === 0) continue;
			const given = givenFor(first, rest[0]!.operation, parameter, path, this.#links.get(first));
			if (!given) continue;
			const head = stepFor(role, first);
			for (const one of rest) one.takes.push({ in: 'path', name: parameter, from: head, value: keepIn(head, given) });
			for (const { operation } of [head, ...rest]) this.#taken.add(operation);
			return { steps: inOrder([head, ...rest]), why: given.why };
		}
		return undefined;
	}

	/** Adds what the answers of a chain lead to, as far as nobody else has it. */
	#follow(chain: Chain, free: ReadonlySet<OpenapiOperation>): void {
		const waiting = [...chain.steps];
		let most = MOST_FOLLOWED;
		for (const from of waiting) {
			// what is removed leads nowhere
			if (from.role === 'remove') continue;
			for (const link of this.#links.get(from.operation) ?? []) {
				const { to } = link;
				const own = chain.steps.some(({ operation }) => operation === to);
				if (own || most === 0 || !free.has(to) || this.#taken.has(to)) continue;
				const takes = this.#linked(chain, from, link);
				if (!takes) continue;
				most--;
				const step: ChainStep = { ...stepFor(to.method === 'DELETE' ? 'remove' : 'follow', to), takes };
				this.#taken.add(to);
				waiting.push(step);
				chain.steps = inOrder([...chain.steps, step]);
				chain.why = [chain.why, `the link ${link.name} of ${nameOf(from.operation)} leads to ${nameOf(to)}`]
					.filter(Boolean)
					.join('; ');
			}
		}
	}

	/** What the target of a link takes; undefined where it is not all that its path needs. */
	#linked(chain: Chain, from: ChainStep, link: Link): Take[] | undefined {
		const places = placesIn(link.to);
		const takes: Take[] = [];
		for (const one of parametersOf(link.to)) {
			if (one.in === 'body' || one.in === 'formData') continue;
			const said = expressionOf(link, one.in, one.name);
			const selector = selectorOf(said);
			const [, sent] = /^\$request\.path\.(.+)$/.exec(typeof said === 'string' ? said : '') ?? [];
			const again =
				sent === undefined ? undefined : from.takes.find((take) => take.in === 'path' && take.name === sent);
			const place =
				one.in === 'path' && said === undefined ? places.find(({ parameter }) => parameter === one.name) : undefined;
			const known = place && takenAt(chain.steps, place);
			if (selector)
				takes.push({ in: one.in, name: one.name, from, value: keepIn(from, kept(keepName(one.name), selector, '')) });
			else if (again ?? known) takes.push({ ...(again ?? known)!, in: one.in, name: one.name });
			else if (one.in === 'path') return undefined;
		}
		return takes.length > 0 ? takes : undefined;
	}

	/** Puts what a chain lies within before it: what is created goes away again at its end. */
	#setUp(chain: Chain): void {
		const safe = chain.steps.every(({ operation }) => SAFE.has(operation.method));
		const setup: Setup = { steps: [], reasons: [], safe, own: chain.steps };
		chain.steps.forEach((step, at) => this.#giveAbove(step, setup, chain.steps.slice(0, at)));
		chain.steps = [...setup.steps, ...chain.steps];
		chain.why = [chain.why, ...setup.reasons].filter(Boolean).join('; ');
	}

	/** Gives a step the things that its path lies within, made or found before it where no step before does so. */
	#giveAbove(step: ChainStep, setup: Setup, before: ChainStep[], depth = 0): void {
		for (const place of placesIn(step.operation)) {
			if (step.takes.some((one) => one.in === 'path' && one.name === place.parameter)) continue;
			const known = takenAt([...setup.steps, ...before], place) ?? this.#makeFor(step, place, setup, depth);
			if (known) step.takes.push({ ...known, name: place.parameter });
		}
	}

	/** Makes or finds a thing before the steps of a chain. */
	#makeFor(step: ChainStep, place: Place, setup: Setup, depth: number): Take | undefined {
		const thing = depth < DEEPEST ? this.#thing(place, step.operation) : undefined;
		// what is only found is looked at alone: it is somebody's
		if (!thing || (thing.role === 'find' && !setup.safe)) return undefined;
		if ([...setup.steps, ...setup.own].some(({ operation }) => operation === thing.first)) return undefined;
		const head: ChainStep = { ...stepFor(thing.role, thing.first), setup: true };
		this.#giveAbove(head, setup, [], depth + 1);
		const take: Take = { in: 'path', name: place.parameter, from: head, value: keepIn(head, thing.given) };
		setup.steps.push(head);
		setup.reasons.push(thing.given.why);
		const { remove } = thing;
		if (remove && thing.role === 'create' && !setup.own.some(({ operation }) => operation === remove)) {
			const undo: ChainStep = { ...stepFor('remove', remove), setup: true, takes: [] };
			const own = placesIn(remove).at(-1)!.parameter;
			undo.takes.push({ ...take, name: own });
			this.#giveAbove(undo, setup, [], DEEPEST);
			setup.steps.push(undo);
		}
		return take;
	}

	/** What gives a thing, asked by an operation at it or below it. */
	#thing({ path, shape, parameter }: Place, by: OpenapiOperation): Thing | undefined {
		if (this.#things.has(shape)) return this.#things.get(shape);
		const at = this.#byShape.get(shape) ?? [];
		const beside = this.#byShape.get(shape.slice(0, shape.lastIndexOf('/'))) ?? [];
		let thing: Thing | undefined;
		for (const [role, method] of FIRST) {
			const first = beside.find((one) => one.method === method);
			const [it] = at;
			const given =
				first &&
				(it
					? givenFor(first, it, placesIn(it).at(-1)!.parameter, pathOf(it), this.#links.get(first))
					: givenFor(first, by, parameter, path, this.#links.get(first)));
			if (!given) continue;
			thing = { role, first, given, remove: at.find((one) => one.method === 'DELETE') };
			break;
		}
		this.#things.set(shape, thing);
		return thing;
	}
}

/** What is put before a chain. */
interface Setup {
	steps: ChainStep[];
	/** Why what is kept is believed to be what is wanted. */
	reasons: string[];
	/** The chain only reads. */
	safe: boolean;
	/** Steps of the chain itself. */
	own: ChainStep[];
}

const FIRST = [
	['create', 'POST'],
	['find', 'GET']
] as const;

function addTo<T>(lists: Map<string, T[]>, key: string, one: T): void {
	const there = lists.get(key);
	if (there) there.push(one);
	else lists.set(key, [one]);
}
const stepFor = (role: Role, operation: OpenapiOperation): ChainStep => ({
	...{ role, operation, setup: false },
	...{ takes: [], keeps: {} }
});

/** Has a step keep a value, under another name where it keeps something else by that. @returns the expression that gives it */
function keepIn({ keeps }: ChainStep, { keep, value }: Given): string {
	let { name } = keep;
	for (let n = 2; Object.hasOwn(keeps, name) && keeps[name] !== keep.selector; n++) name = `${keep.name}${n}`;
	keeps[name] = keep.selector;
	return value.replace(`$steps.ID.${keep.name}`, () => `$steps.ID.${name}`);
}
const inOrder = (steps: ChainStep[]): ChainStep[] =>
	[...steps].sort((a, b) => ORDER.indexOf(a.role) - ORDER.indexOf(b.role));

/** What an earlier step takes for the same thing. */
function takenAt(steps: ChainStep[], { shape }: Place): Take | undefined {
	for (const { operation, takes } of steps)
		for (const { shape: own, parameter } of placesIn(operation)) {
			const found = own === shape ? takes.find((one) => one.in === 'path' && one.name === parameter) : undefined;
			if (found) return found;
		}
	return undefined;
}

const IF_MATCH = 'if-match';
/**
 * Gives `If-Match` the entity tag of the last answer that has one (RFC 9110 section 13.1.1), as long as nothing was changed since
 * by a call that answers none.
 */
function takeTags(steps: ChainStep[]): void {
	if (!steps.some(({ operation }) => answersHeader(operation, 'etag'))) return;
	steps.forEach((step, at) => {
		const wanted = parametersOf(step.operation).find(
			(one) => one.in === 'header' && one.name.toLowerCase() === IF_MATCH
		);
		if (!wanted) return;
		const path = pathOf(step.operation);
		const same = steps
			.slice(0, at)
			.filter(
				(one) =>
					one.role !== 'find' &&
					(pathOf(one.operation) === path ||
						step.takes.some(({ from, name }) => from === one && path.endsWith(`{${name}}`)))
			);
		for (const one of same.reverse()) {
			if (answersHeader(one.operation, 'etag')) {
				const value = keepIn(one, kept('etag', 'header:ETag', ''));
				step.takes.push({ in: 'header', name: wanted.name, from: one, value });
				return;
			}
			if (!SAFE.has(one.operation.method)) return;
		}
	});
}
