import { HeronError } from '../../errors.ts';
import type { Scenario } from '../../documents/collection.ts';
import { parseSoap, writeEnvelope, type WsdlRegistry } from '../../soap/index.ts';
import { hasExpression } from '../../values/index.ts';
import type { CollectionRule, Tell } from './rule.ts';

/** Operations that no definition has, and values that do not fit them. */
export const soap: CollectionRule = {
	name: 'soap',
	look(collection, file, { workspace, wrong, warn }) {
		collection.scenarios.forEach((scenario, at) => lookAt(scenario, at, file, workspace.wsdls, wrong, warn));
	}
};

function lookAt(scenario: Scenario, at: number, file: string, wsdls: WsdlRegistry, wrong: Tell, warn: Tell): void {
	scenario.steps.forEach((step, index) => {
		const soap = step.send?.body?.kind === 'soap' ? parseSoap(step.send.body.value) : undefined;
		if (!soap?.operation || hasExpression(soap.operation)) return;
		const path = ['scenarios', at, 'steps', index, 'body', 'soap'];
		try {
			const found = wsdls.find(soap.operation, soap.version, soap.definition);
			const several = soap.definition ? [] : wsdls.knowing(soap.operation, soap.version);
			if (several.length > 1)
				warn(file, [...path, 'operation'], 'definition.several', {
					name: soap.operation,
					files: several.map((one) => one.file.replace(/^definitions\//, '')).join(' and '),
					taken: found.definition.file.replace(/^definitions\//, '')
				});
			if (soap.envelope !== undefined) return;
			for (const { path: inside, message, unknown } of writeEnvelope(wsdls.model(found), soap, { open: hasExpression })
				.problems) {
				const own = inside[0] === 'headers' && soap.headers ? inside : ['values', ...inside];
				const report = unknown && !soap.unknown ? wrong : warn;
				report(file, [...path, ...own], 'definition.value', {
					name: pathText(inside) || soap.operation,
					detail: message
				});
			}
		} catch (error) {
			if (!(error instanceof HeronError)) throw error;
			wrong(file, [...path, 'operation'], error.code, error.values);
		}
	});
}

const pathText = (path: readonly (string | number)[]): string =>
	path
		.map((key) => (typeof key === 'number' ? `[${key + 1}]` : key))
		.join('.')
		.replace(/\.\[/g, '[');
