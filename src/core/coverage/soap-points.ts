import { lookUp } from '../model/lookup.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import type { PointKind } from '../documents/suite.ts';
import {
	EACH_KEY,
	elementsWithin,
	sampleElement,
	TYPE_KEY,
	valueKey,
	type ComplexModel,
	type ElementModel,
	type ParticleModel,
	type SoapModel,
	type SoapOperation
} from '../soap/index.ts';

/** A call of a SOAP operation: what it was asked, and how it was answered. */
export interface SoapCall {
	step: string;
	/** `Service.Operation`, as the step says it. */
	operation: string;
	definition: string;
	version: string;
	/** `answer`, the name of a fault, or undefined where nobody knows. */
	answer: string | undefined;
	/** Words that a fault is checked for. */
	faultWords?: string;
	/** What is asked, as values of the operation's message; undefined where nobody knows. */
	values(model: SoapModel): Json | undefined;
}

/** What of a call is looked at. */
interface SoapTouch {
	values: Json | undefined;
	answer: string | undefined;
	faultWords: string;
}

/** One thing that a test of an operation may touch; and how the values of its message have to be for it. */
export interface SoapPoint {
	kind: PointKind;
	/** Unique in its operation: `fault BerthTaken`, `PayToll/payment as card`, `without PayToll/note`. */
	name: string;
	touches(call: SoapTouch): boolean;
	/** Changes a full sample, so that the point is touched. */
	change?(values: Json): Json;
	/** The element of the fault that it is about. */
	fault?: string;
}

const DEEPEST = 5;
const MOST_POINTS = 300;
const MOST_VALUES = 40;

interface Place {
	/** As it is shown: names of elements. */
	path: string;
	/** Alternatives on the way, as they stand behind a name: ` as card`. */
	as: string;
	keys: string[];
	/** What stands there. */
	read(values: Json): Json[];
	/** Puts what is on the way as it has to be. */
	change(values: Json): Json;
	/** Types on the way here: what comes round is not looked at again. */
	above: readonly string[];
}

/** What an operation of a WSDL offers: its answer, its faults, and of what it is asked the alternatives, fields and listed values. */
export function soapPoints(model: SoapModel, operation: SoapOperation): SoapPoint[] {
	const points: SoapPoint[] = [{ kind: 'operation', name: 'called', touches: () => true }];
	if (operation.output) points.push({ kind: 'answer', name: 'answer', touches: ({ answer }) => answer === 'answer' });
	for (const { local } of operation.faults)
		points.push({
			kind: 'answer',
			name: `fault ${local}`,
			fault: local,
			touches: ({ answer, faultWords }) => answer === `fault ${local}` || faultWords.split(/[^\w.-]+/).includes(local)
		});
	return [...points, ...new MessageParts(model).points()];
}

/** What of the message of an operation a test may touch. */
class MessageParts {
	readonly #model: SoapModel;
	readonly #points = new Map<string, SoapPoint>();

	constructor(model: SoapModel) {
		this.#model = model;
	}

	points(): SoapPoint[] {
		const { body } = this.#model.input;
		const alone = body.length === 1;
		for (const one of body)
			this.#element(one, {
				...{ path: one.local, as: '', keys: alone ? [] : [one.local], above: [], change: (values) => values },
				read: (values) => (alone ? [values] : within(values, one.local))
			});
		return [...this.#points.values()];
	}

	#add(kind: PointKind, name: string, place: Place, holds: (there: Json) => boolean, last: Change): void {
		if (this.#points.has(name) || this.#points.size >= MOST_POINTS) return;
		this.#points.set(name, {
			...{ kind, name },
			touches: ({ values }) => values !== undefined && place.read(values).some(holds),
			change: (values) => changeAt(place.change(values), place.keys, last)
		});
	}

	#element(one: ElementModel, place: Place): void {
		const type = this.#model.types[one.type];
		if (!type || place.above.length > DEEPEST || place.above.includes(one.type)) return;
		if (type.kind === 'simple') return this.#values(type, place);
		const above = [...place.above, one.type];
		if (!type.derived) return this.#complex(type, { ...place, above });
		for (const key of type.derived) this.#derived(one, key, { ...place, above });
	}

	/** Values that a simple type lists. */
	#values(type: SimpleModel, place: Place): void {
		const list = type.variety === 'list' ? [] : (type.facets.enumeration ?? []);
		for (const value of list.slice(0, MOST_VALUES))
			this.#add(
				...(['value', `${place.path} = ${value}${place.as}`, place] as const),
				(there) => String(there) === value,
				() => value
			);
	}

	/** An element as one of the types that its own type may be derived to. */
	#derived(one: ElementModel, key: string, place: Place): void {
		const own = this.#model.types[key];
		if (own?.kind !== 'complex' || own.abstract) return;
		const name = localOf(key);
		const fits = (there: Json) =>
			isObject(there) && (key === one.type ? !(TYPE_KEY in there) : localOf(String(there[TYPE_KEY] ?? '')) === name);
		const put: Change = () => ({
			...(sampleElement(this.#model, { ...one, type: key }, 'full') as JsonObject),
			...(key === one.type ? {} : { [TYPE_KEY]: name })
		});
		const here = taking(place, ` of type ${name}`, fits, put);
		this.#add('choice', `${place.path}${here.as}`, place, fits, put);
		this.#complex(own, { ...here, above: [...place.above, key] });
	}

	#complex(type: ComplexModel, place: Place): void {
		if (!type.content) return;
		this.#particle(type.content, type, { ...place, read: (values) => place.read(values).flatMap(passes) });
	}

	#particle(one: ParticleModel, type: ComplexModel, place: Place, optional = false): void {
		if (one.kind === 'any') return;
		if (one.kind === 'choice') return this.#choice(one, type, place);
		if (one.kind === 'element') {
			for (const own of one.elements) this.#field(own, one, type, place, optional || one.min === 0);
			return;
		}
		for (const item of one.items) this.#particle(item, type, place, optional || one.min === 0);
	}

	/** An element of a particle: one of several that may stand there, or one that may be left out. */
	#field(own: ElementModel, one: ElementParticle, type: ComplexModel, place: Place, optional: boolean): void {
		const key = valueKey(own, type);
		const path = `${place.path}/${own.local}`;
		const has = (there: Json) => isObject(there) && Object.hasOwn(there, key);
		if (one.elements.length > 1)
			this.#add('choice', `${path}${place.as}`, place, has, only(this.#model, type, [own], one.elements));
		else if (optional) {
			this.#add('field', `${path}${place.as}`, place, has, only(this.#model, type, [own], []));
			this.#add(
				...(['field', `without ${path}${place.as}`, place] as const),
				(there) => isObject(there) && !has(there),
				only(this.#model, type, [], [own])
			);
		}
		this.#element(own, below(place, own, key));
	}

	#choice(one: GroupParticle, type: ComplexModel, place: Place): void {
		for (const item of one.items) {
			const own = elementsWithin(item);
			const [first] = own;
			if (!first) continue;
			const others = elementsWithin(one).filter((each) => !own.includes(each));
			const keys = own.map((each) => valueKey(each, type));
			const fits = (there: Json) => isObject(there) && keys.some((key) => Object.hasOwn(there, key));
			const put = only(this.#model, type, own, others);
			const here = taking(place, ` as ${first.local}`, fits, put);
			this.#add('choice', `${place.path}${here.as}`, place, fits, put);
			// what the alternative is alone is told by itself
			if (item.kind === 'element' && item.elements.length === 1) this.#element(first, below(here, first, keys[0]!));
			else this.#particle(item, type, here);
		}
	}
}

type SimpleModel = Extract<SoapModel['types'][string], { kind: 'simple' }>;
type ElementParticle = Extract<ParticleModel, { kind: 'element' }>;
type GroupParticle = Extract<ParticleModel, { items: unknown }>;
type Change = (there: Json) => Json;

/** A place where an alternative is taken. */
const taking = (place: Place, as: string, fits: (there: Json) => boolean, put: Change): Place => ({
	...place,
	as: place.as + as,
	read: (values) => place.read(values).filter(fits),
	change: (values) => changeAt(place.change(values), place.keys, put)
});

/** The place of an element in another. */
const below = (place: Place, { local }: ElementModel, key: string): Place => ({
	...place,
	path: `${place.path}/${local}`,
	keys: [...place.keys, key],
	read: (values) => place.read(values).flatMap((there) => within(there, key))
});

const localOf = (name: string): string => name.replace(/^.*[}:#]/, '');

/** An object that holds some elements and not others. */
const only =
	(model: SoapModel, type: ComplexModel, wanted: ElementModel[], without: ElementModel[]): Change =>
	(there) => {
		if (!isObject(there)) return there;
		const out: JsonObject = { ...(there as JsonObject) };
		for (const one of without) delete out[valueKey(one, type)];
		for (const one of wanted) {
			const key = valueKey(one, type);
			if (lookUp(out, key) == null) out[key] = sampleElement(model, one, 'full');
		}
		return out;
	};

/** What a value is made of where a group in it repeats. */
const passes = (value: Json): Json[] =>
	isObject(value) && Array.isArray(value[EACH_KEY]) ? [value, ...(value[EACH_KEY] as Json[])] : [value];

/** What stands under a key; of a list each. */
const within = (value: Json, key: string): Json[] => {
	if (!isObject(value) || !Object.hasOwn(value, key)) return [];
	const found = (value as JsonObject)[key]!;
	return Array.isArray(found) ? found : [found];
};

/** Changes what stands behind keys; of lists the first item. */
function changeAt(value: Json, [key, ...rest]: string[], change: Change): Json {
	if (Array.isArray(value))
		return value.map((one, at) => (at === 0 ? changeAt(one, key === undefined ? [] : [key, ...rest], change) : one));
	if (key === undefined) return change(value);
	if (!isObject(value)) return value;
	return { ...(value as JsonObject), [key]: changeAt((value as JsonObject)[key] ?? {}, rest, change) };
}
