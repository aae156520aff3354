import { counted } from '../messages.ts';
import type { ContentView, OperationView, SchemaRow } from '../model/operation-view.ts';
import { answerModel, writeFault } from './answer.ts';
import {
	modelOf,
	valueKey,
	type ComplexModel,
	type ElementModel,
	type ParticleModel,
	type SoapModel
} from './model.ts';
import { sampleElement, sampleValues } from './sample.ts';
import { UNBOUNDED, type SimpleType } from './schema/index.ts';
import type { WsdlRegistry } from './registry.ts';
import { splitName } from './tree.ts';
import { writeEnvelope } from './write/index.ts';
import type { SoapMessage, SoapOperation } from './wsdl/index.ts';

const MOST = 400;
const DEEPEST = 8;

/** What a WSDL says of an operation: its message, its answer and its faults. Undefined where there is no such operation. */
export function viewSoapOperation(wsdls: WsdlRegistry, file: string, key: string): OperationView | undefined {
	const definition = wsdls.definition(file);
	const versions = definition.operations.filter((one) => one.key === key);
	const [operation] = versions;
	if (!operation) return undefined;
	const found = { definition, operation };
	const type = versions.map(({ version }) => `SOAP ${version}`).join(', ');
	const own = wsdls.model(found);
	const content = (model: SoapModel, of: 'body' | 'headers', example: () => string): ContentView => ({
		type,
		rows: model.input[of].flatMap((one) => elementRows(model, one)),
		example: shown(example)
	});
	const sampled = (model: SoapModel) => () => writeEnvelope(model, sampleValues(model, 'full')).text;
	const answered = answerModel(found);
	return {
		...{ name: key, id: '', summary: '', description: operation.doc, deprecated: false, parameters: [] },
		bodies: [
			{ ...content(own, 'body', sampled(own)), required: true },
			...(own.input.headers.length > 0
				? [{ ...content(own, 'headers', () => ''), type: 'entries of the header', required: false }]
				: [])
		],
		answers: [
			...(operation.output
				? [{ status: 'answer', description: '', headers: [], bodies: [content(answered, 'body', sampled(answered))] }]
				: []),
			...operation.faults.map((fault) => {
				const model = modelOf(definition, {
					...operation,
					input: { ...NOTHING, body: [fault] }
				} satisfies SoapOperation);
				const [element] = model.input.body;
				const example = () =>
					writeFault(found, {
						...{ code: 'Server', reason: 'It failed' },
						detail: { [fault.local]: element ? sampleElement(model, element, 'full') : {} }
					}).text;
				return {
					...{ status: `fault ${fault.local}`, description: fault.doc ?? '', headers: [] },
					bodies: [content(model, 'body', example)]
				};
			})
		],
		security: operation.wants
	};
}

const NOTHING: SoapMessage = { body: [], headers: [], attachments: [] };

/** An example is worth no trouble: where it cannot be made, there is none. */
function shown(make: () => string): string {
	try {
		return make();
	} catch {
		return '';
	}
}

type At = Pick<SchemaRow, 'depth'> & { min: number; max: number; form?: true };

/** An element as lines of a table, from the outside to the inside; what comes round is cut. */
function elementRows({ types }: SoapModel, top: ElementModel): SchemaRow[] {
	const rows = new ElementRows(types);
	rows.element(top, { depth: 0, min: 1, max: 1 }, []);
	return rows.rows;
}

/** What an attribute or an element may hold, beside its type. */
const valueLimits = ({ fixed, default: usual }: { fixed?: string | undefined; default?: string | undefined }) => [
	...(fixed === undefined ? [] : [`is ${fixed}`]),
	...(usual === undefined ? [] : [`${usual} when left out`])
];

class ElementRows {
	readonly rows: SchemaRow[] = [];
	readonly #types: SoapModel['types'];

	constructor(types: SoapModel['types']) {
		this.#types = types;
	}

	#put(row: SchemaRow): SchemaRow {
		if (this.rows.length < MOST) this.rows.push(row);
		return row;
	}

	/** @param above the types that it stands in */
	element(one: ElementModel, { depth, min, max, form }: At, above: readonly string[]): void {
		const type = this.#types[one.type];
		const limits = [
			...(max > 1 ? [`${min} to ${max >= UNBOUNDED ? 'any number' : max} times`] : []),
			...(type?.kind === 'simple' ? limitsOf(type) : []),
			...(one.nillable ? ['may be nil'] : []),
			...valueLimits(one)
		];
		const row = this.#put({
			...{ depth, name: one.local, required: min > 0 && !form, limits: limits.join('; ') },
			type: `${max > 1 ? 'list of ' : ''}${type ? wordsOf(type) : ''}`,
			doc: one.doc ?? type?.doc ?? '',
			...(form ? { form } : {})
		});
		if (type?.kind !== 'complex') return;
		if (above.includes(one.type) || depth >= DEEPEST) {
			row.cut = true;
			return;
		}
		const seen = [...above, one.type];
		this.#complex(type, depth + 1, seen);
		for (const key of type.derived ?? []) {
			const other = this.#types[key];
			if (key === one.type || other?.kind !== 'complex' || other.abstract) continue;
			const name = `of type ${splitName(key).local}`;
			this.#put({ depth: depth + 1, name, type: '', required: false, limits: '', doc: other.doc ?? '', form: true });
			this.#complex(other, depth + 2, [...seen, key]);
		}
	}

	#complex(type: ComplexModel, depth: number, above: readonly string[]): void {
		for (const one of type.attributes)
			this.#put({
				...{ depth, name: `@${one.local}`, type: wordsOf(one.type), required: one.required, doc: one.doc },
				limits: [...limitsOf(one.type), ...valueLimits(one)].join('; ')
			});
		if (type.arrayOf !== undefined) {
			const item = { local: '[ ]', namespace: '', type: type.arrayOf };
			this.element(item, { depth, min: 0, max: 1 }, above);
		} else if (type.content) this.#particle(type.content, type, { depth, min: 1, max: 1 }, above);
	}

	#particle(one: ParticleModel, type: ComplexModel, at: At, above: readonly string[]): void {
		// what stands in a group that may be left out may be left out itself
		const here: At = { ...at, min: Math.min(at.min, one.min), max: Math.min(UNBOUNDED, at.max * one.max) };
		switch (one.kind) {
			case 'any':
				this.#put({ depth: at.depth, name: 'any element', type: 'XML', required: here.min > 0, limits: '', doc: '' });
				return;
			case 'element': {
				const place = one.elements.length > 1 ? { ...here, form: true as const } : here;
				for (const own of one.elements)
					this.element({ ...own, local: valueKey(own, type).replace(/^\{[^}]*\}/, '') }, place, above);
				return;
			}
			case 'choice':
				for (const item of one.items) this.#branch(item, type, here, above);
				return;
			default:
				for (const item of one.items) this.#particle(item, type, here, above);
		}
	}

	/** One of those of which one is chosen. */
	#branch(item: ParticleModel, type: ComplexModel, here: At, above: readonly string[]): void {
		if (item.kind === 'element') return this.#particle(item, type, { ...here, form: true }, above);
		const { form: _, ...inside } = here;
		void _;
		const name = item.kind === 'any' ? 'any element' : 'these together';
		this.#put({ depth: here.depth, name, type: '', required: false, limits: '', doc: '', form: true });
		this.#particle(item, type, { ...inside, depth: here.depth + 1 }, above);
	}
}

function wordsOf(type: SimpleType | ComplexModel): string {
	if (type.kind === 'complex') return type.text ? wordsOf(type.text) : type.mixed ? 'elements and text' : 'elements';
	if (type.variety === 'list') return `list of ${type.item ? wordsOf(type.item) : 'values'}`;
	if (type.variety === 'union') return (type.members ?? []).map(wordsOf).join(' or ');
	return type.builtin;
}

/** Facets in words (XSD 1.0 part 2, section 4.3). */
function limitsOf({ facets }: SimpleType): string[] {
	const { enumeration, patterns = [] } = facets;
	const letters = (size: number) => counted(size, 'letter');
	const say = <K extends keyof typeof facets>(key: K, words: (value: NonNullable<(typeof facets)[K]>) => string) =>
		facets[key] === undefined ? [] : [words(facets[key] as NonNullable<(typeof facets)[K]>)];
	const shownValues = (enumeration ?? []).slice(0, 12).join(', ');
	return [
		...(enumeration
			? [`one of ${shownValues}${enumeration.length > 12 ? ` and ${enumeration.length - 12} more` : ''}`]
			: []),
		...say('minInclusive', (value) => `from ${value}`),
		...say('minExclusive', (value) => `more than ${value}`),
		...say('maxInclusive', (value) => `to ${value}`),
		...say('maxExclusive', (value) => `less than ${value}`),
		...say('length', letters),
		...say('minLength', (value) => `${letters(value)} at least`),
		...say('maxLength', (value) => `${letters(value)} at most`),
		...say('totalDigits', (value) => `${counted(value, 'digit')} at most`),
		// of a whole number its type says it
		...(facets.fractionDigits ? [`${counted(facets.fractionDigits, 'digit')} behind the point at most`] : []),
		...patterns.map((list) => `fits ${list.join(' or ')}`)
	];
}
