import { planDefinitions } from '#core/definitions/index.ts';
import type { JsonObject } from '#core/model/json.ts';
import { operationsOf, readOpenapi, type OpenapiOperation } from '#core/openapi/index.ts';
import { loadProject } from '#core/project/index.ts';
import type { StepResult } from '#core/run/index.ts';
import type { CallRecord } from '#core/stand-in/index.ts';
import { runAll } from './project.ts';
import { running } from './stand-in.ts';

const OWN = 'definitions/own.json';

/** Imports a document, and runs what is made of it against a stand-in that answers by the same document. */
export async function callsByDefinition(
	text: string
): Promise<{ operations: OpenapiOperation[]; results: StepResult[]; calls: CallRecord[] }> {
	const operations = operationsOf(readOpenapi(OWN, (path) => (path === OWN ? text : undefined)));
	if (operations.length === 0) return { operations, results: [], calls: [] };
	const now = await running({
		standIns: { own: { definition: 'own.json', otherwise: 'definition' } },
		files: { [OWN]: text }
	});
	try {
		const base = `${now.list[0]!.address}${operations[0]!.prefixes[0] ?? ''}`;
		const files: Record<string, string> = {
			'heron.yaml': 'heron: 1\ntitle: Ours\n',
			'connections/there.yaml': `heron: 1\nbase: ${base}\n`
		};
		const bytes = (path: string) => (files[path] === undefined ? undefined : new TextEncoder().encode(files[path]));
		const project = loadProject(
			Object.entries(files).map(([path, own]) => ({ path, text: own })),
			new Set(Object.keys(files)),
			bytes
		);
		const [plan] = planDefinitions({
			name: 'own',
			files: [{ path: 'own.json', bytes: new TextEncoder().encode(text) }],
			workspace: project.workspace,
			readFile: bytes,
			valueOf: (path) => project.documents.get(path)?.value,
			connection: 'there'
		});
		const made = plan!.writes.find(({ path }) => path.startsWith('collections/'))!.value as JsonObject;
		const { credential: _, scenarios, ...collection } = made as { scenarios: JsonObject[] } & JsonObject;
		const steps = (list: JsonObject[]) =>
			list.map(({ credential: _, ...step }) => step).filter(({ send }) => !/ https?:/.test(String(send)));
		const results = await runAll({
			connections: { there: { base } },
			collections: {
				own: { ...collection, scenarios: scenarios.map((one) => ({ ...one, steps: steps(one.steps as JsonObject[]) })) }
			},
			files: { [OWN]: text },
			secrets: Object.fromEntries(
				[...JSON.stringify(scenarios).matchAll(/\$secret\.(\w+)/g)].map(([, name]) => [name!, 'a-secret'])
			)
		});
		return { operations, results, calls: now.list[0]!.log.find({}) };
	} finally {
		await now.close();
	}
}
