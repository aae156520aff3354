import { HeronError, textOf } from '../errors.ts';
import { nameOf, type Carried, type OpenapiDefinition, type OpenapiOperation } from '../openapi/index.ts';
import type { Workspace } from '../project/index.ts';
import type { SoapModel } from '../soap/index.ts';
import type { Call } from './call.ts';
import type { CoveredDefinition, CoveredOperation, CoveredPoint, Coverage } from '../tallies/index.ts';
import type { Point } from './point.ts';
import { pointsOf } from './points.ts';
import { soapPoints, type SoapCall, type SoapPoint } from './soap-points.ts';

const MOST_STEPS = 20;
const MOST_UNKNOWN = 200;

interface Kept {
	points: { point: Point; covered: CoveredPoint }[];
	operation: CoveredOperation;
}
interface KeptSoap {
	points: { point: SoapPoint; covered: CoveredPoint }[];
	model: SoapModel;
}
const untouched = ({ kind, name }: Pick<CoveredPoint, 'kind' | 'name'>): CoveredPoint => ({
	kind,
	name,
	steps: [],
	count: 0
});

/** Counts what calls touch of the definitions of a project, one call after the other. */
export class Collector {
	readonly #openapis: Workspace['openapis'];
	readonly #wsdls: Workspace['wsdls'];
	readonly #definitions: CoveredDefinition[] = [];
	readonly #byOperation = new Map<OpenapiOperation, Kept>();
	readonly #bySoap = new Map<string, KeptSoap>();
	readonly #unknown = new Map<string, Coverage['unknown'][number]>();

	constructor({ openapis, wsdls }: Pick<Workspace, 'openapis' | 'wsdls'>) {
		this.#openapis = openapis;
		this.#wsdls = wsdls;
		for (const { file, definition, error } of openapis.all()) {
			const one: CoveredDefinition = { file, title: '', operations: [], trouble: error?.message ?? '' };
			this.#definitions.push(one);
			if (definition) this.#enter(one, definition);
		}
		for (const file of wsdls.files) {
			const one: CoveredDefinition = { file, title: '', operations: [], trouble: '' };
			this.#definitions.push(one);
			try {
				this.#enterWsdl(one);
			} catch (error) {
				one.trouble = textOf(error);
			}
		}
	}

	#enter(one: CoveredDefinition, definition: OpenapiDefinition): void {
		one.title = titleOf(definition);
		for (const operation of definition.operations) {
			const { summary, deprecated } = operation.node.value;
			const points = pointsSafely(operation).map((point) => ({ point, covered: untouched(point) }));
			const covered: CoveredOperation = {
				name: nameOf(operation),
				title: typeof summary === 'string' ? summary : '',
				deprecated: deprecated === true,
				points: points.map((each) => each.covered)
			};
			one.operations.push(covered);
			this.#byOperation.set(operation, { points, operation: covered });
		}
	}

	#enterWsdl(one: CoveredDefinition): void {
		const definition = this.#wsdls.definition(one.file);
		for (const operation of definition.operations) {
			const key = `${one.file} ${operation.key}`;
			// both versions of SOAP are one operation to whoever tests
			if (this.#bySoap.has(key)) continue;
			const model = this.#wsdls.model({ definition, operation });
			const points = soapPoints(model, operation).map((point) => ({ point, covered: untouched(point) }));
			one.operations.push({
				...{ name: operation.key, title: operation.doc.slice(0, 120), deprecated: false },
				points: points.map(({ covered }) => covered)
			});
			this.#bySoap.set(key, { points, model });
		}
	}

	/** @param definition the document that the call is said to be of */
	add(call: Call, definition?: string): void {
		let operation: OpenapiOperation;
		try {
			const carried: Carried = { fragment: call.fragment, values: (name) => call.header(name) ?? call.query(name) };
			operation = this.#openapis.find({ method: call.method, path: call.path, base: call.base, carried }, definition);
		} catch (error) {
			if (!(error instanceof HeronError)) throw error;
			// what stand-ins tell of themselves is no service of anybody
			return call.path.includes('/.stand-in/') ? undefined : this.#miss(`${call.method} ${call.shown}`, call.step);
		}
		for (const { point, covered } of this.#byOperation.get(operation)?.points ?? [])
			if (point.touches(call)) touch(covered, call.step);
	}

	addSoap({ step, operation: name, definition, version, answer, faultWords = '', values }: SoapCall): void {
		try {
			const found = this.#wsdls.find(name, version, definition);
			const one = this.#bySoap.get(`${found.definition.file} ${found.operation.key}`);
			const call = one && { answer, faultWords, values: values(one.model) };
			for (const { point, covered } of one?.points ?? []) if (point.touches(call!)) touch(covered, step);
		} catch (error) {
			if (!(error instanceof HeronError)) throw error;
			this.#miss(name, step);
		}
	}

	#miss(call: string, step: string): void {
		const one = this.#unknown.get(call) ?? { call, steps: [], count: 0 };
		if (!this.#unknown.has(call) && this.#unknown.size >= MOST_UNKNOWN) return;
		this.#unknown.set(call, one);
		touch(one, step);
	}

	result(): Coverage {
		return { definitions: this.#definitions, unknown: [...this.#unknown.values()] };
	}
}

function titleOf({ document }: OpenapiDefinition): string {
	const info = document.root.value.info as { title?: unknown } | undefined;
	return typeof info?.title === 'string' ? info.title : '';
}

function touch(touched: Pick<CoveredPoint, 'count' | 'steps'>, step: string): void {
	touched.count++;
	if (touched.steps.length < MOST_STEPS && !touched.steps.includes(step)) touched.steps.push(step);
}

/** An operation that cannot be followed further has at least itself. */
function pointsSafely(operation: OpenapiOperation): Point[] {
	try {
		return pointsOf(operation);
	} catch (error) {
		if (!(error instanceof HeronError)) throw error;
		return [{ kind: 'operation', name: 'called', touches: () => true }];
	}
}
