import { writeJson } from '../model/json.ts';
import type { SoapOperation } from './wsdl/index.ts';

/** Operations that are the same call as an earlier one, several services sharing a binding and an address, with its key. */
export function twinsAmong(operations: readonly SoapOperation[]): Map<SoapOperation, string> {
	const first = new Map<string, string>();
	const out = new Map<SoapOperation, string>();
	for (const operation of operations) {
		const { key, name, version, address, action, style, use, namespace, input } = operation;
		const message = [...input.body, ...input.headers].map((one) => [one.namespace, one.local, one.typeName]);
		const call = writeJson([name, version, address, action, style, use, namespace, message]);
		const twin = first.get(call);
		if (twin === undefined) first.set(call, key);
		else out.set(operation, twin);
	}
	return out;
}
