import { isObject, type JsonObject } from '../model/json.ts';
import type { Workspace } from '../project/index.ts';
import { soapStep } from '../definitions/index.ts';
import { readable, sampleValues } from '../soap/index.ts';
import type { MissingStep } from './missing-step.ts';
import { soapPoints } from './soap-points.ts';

/** A step that calls an operation of a WSDL so that one of its points is touched; undefined where there is none. */
export function missingSoapStep(
	{ wsdls, connections }: Pick<Workspace, 'wsdls' | 'connections'>,
	file: string,
	key: string,
	pointName: string
): MissingStep | undefined {
	if (!wsdls.files.includes(file)) return undefined;
	const definition = wsdls.definition(file);
	const operation = definition.operations.find((one) => one.key === key);
	if (!operation) return undefined;
	const model = wsdls.model({ definition, operation });
	const point = soapPoints(model, operation).find(({ name }) => name === pointName);
	if (!point) return undefined;
	const notes: string[] = [];
	const origin = URL.canParse(operation.address) ? new URL(operation.address).origin : '';
	const through = [...connections.values()].find(
		({ base }) => URL.canParse(base) && new URL(base).origin === origin && new URL(base).pathname === '/'
	);
	const step = soapStep(definition, operation, {
		origin: through ? origin : '',
		ambiguous: wsdls.knowing(key).length > 1,
		tell: (note) => void notes.push(note)
	});
	if (point.change) {
		const { values, stopped } = sampleValues(model, 'full');
		if (stopped) notes.push(stopped);
		const body = step.body as { soap: JsonObject };
		body.soap.values = readable(point.change(isObject(values) ? values : {}));
	}
	if (point.fault !== undefined) step.checks = [{ fault: 'detail', contains: point.fault }, { contract: true }];
	const title = point.kind === 'operation' ? operation.name : `${operation.name}: ${pointName}`;
	return { step: { ...step, title }, title, connection: through?.name ?? '', notes };
}
