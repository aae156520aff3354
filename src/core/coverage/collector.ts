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

/** Collects what calls touch of the definitions of a project. */
export interface Collector {
	add(call: Call, definition?: string): void;
	addSoap(call: SoapCall): void;
	result(): Coverage;
}

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

/** Counts what calls touch, one after the other. */
export function createCollector({ openapis, wsdls }: Pick<Workspace, 'openapis' | 'wsdls'>): Collector {
	const definitions: CoveredDefinition[] = [];
	const byOperation = new Map<OpenapiOperation, Kept>();
	const bySoap = new Map<string, KeptSoap>();
	const unknown = new Map<string, Coverage['unknown'][number]>();

	const titleOf = ({ document }: OpenapiDefinition): string => {
		const info = document.root.value.info as { title?: unknown } | undefined;
		return typeof info?.title === 'string' ? info.title : '';
	};
	for (const { file, definition, error } of openapis.all()) {
		const one: CoveredDefinition = { file, title: '', operations: [], trouble: error?.message ?? '' };
		definitions.push(one);
		if (!definition) continue;
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
			byOperation.set(operation, { points, operation: covered });
		}
	}
	for (const file of wsdls.files) {
		const one: CoveredDefinition = { file, title: '', operations: [], trouble: '' };
		definitions.push(one);
		try {
			const definition = wsdls.definition(file);
			for (const operation of definition.operations) {
				const key = `${file} ${operation.key}`;
				// both versions of SOAP are one operation to whoever tests
				if (bySoap.has(key)) continue;
				const model = wsdls.model({ definition, operation });
				const points = soapPoints(model, operation).map((point) => ({ point, covered: untouched(point) }));
				one.operations.push({
					...{ name: operation.key, title: operation.doc.slice(0, 120), deprecated: false },
					points: points.map(({ covered }) => covered)
				});
				bySoap.set(key, { points, model });
			}
		} catch (error) {
			one.trouble = textOf(error);
		}
	}

	const touch = (point: CoveredPoint, step: string): void => {
		point.count++;
		if (point.steps.length < MOST_STEPS && !point.steps.includes(step)) point.steps.push(step);
	};
	const miss = (call: string, step: string): void => {
		const one = unknown.get(call) ?? { call, steps: [], count: 0 };
		if (!unknown.has(call) && unknown.size >= MOST_UNKNOWN) return;
		unknown.set(call, one);
		one.count++;
		if (one.steps.length < MOST_STEPS && !one.steps.includes(step)) one.steps.push(step);
	};

	return {
		add(call, definition) {
			let operation: OpenapiOperation;
			try {
				const carried: Carried = { fragment: call.fragment, values: (name) => call.header(name) ?? call.query(name) };
				operation = openapis.find({ method: call.method, path: call.path, base: call.base, carried }, definition);
			} catch (error) {
				if (!(error instanceof HeronError)) throw error;
				// what stand-ins tell of themselves is no service of anybody
				return call.path.includes('/.stand-in/') ? undefined : miss(`${call.method} ${call.shown}`, call.step);
			}
			for (const { point, covered } of byOperation.get(operation)?.points ?? [])
				if (point.touches(call)) touch(covered, call.step);
		},
		addSoap({ step, operation: name, definition, version, answer, faultWords = '', values }) {
			try {
				const found = wsdls.find(name, version, definition);
				const one = bySoap.get(`${found.definition.file} ${found.operation.key}`);
				const call = one && { answer, faultWords, values: values(one.model) };
				for (const { point, covered } of one?.points ?? []) if (point.touches(call!)) touch(covered, step);
			} catch (error) {
				if (!(error instanceof HeronError)) throw error;
				miss(name, step);
			}
		},
		result: () => ({ definitions, unknown: [...unknown.values()] })
	};
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
