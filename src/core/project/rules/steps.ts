import { didYouMean } from '../../messages.ts';
import { isObject } from '../../model/json.ts';
import { namedBy, type Named, type Step } from '../../steps/index.ts';
import { datasetFile, datasetOfEach } from '../../model/rows.ts';
import { parseSoap } from '../../soap/index.ts';
import { refer, referConnection, referCredential, type CollectionRule } from './rule.ts';

/** Connections, credentials, datasets and files that a collection, its scenarios and steps name. */
export const steps: CollectionRule = {
	name: 'steps',
	look(collection, file, looked) {
		const { files, wrong } = looked;
		referConnection(looked, file, ['connection'], collection.connection);
		referCredential(looked, file, ['credential'], collection.credential);
		const referData = (path: (string | number)[], name: string) => {
			const found = datasetFile(name, files);
			if ('several' in found) wrong(file, path, 'dataset.several', { name, files: found.several.join(' and ') });
			else if ('known' in found) wrong(file, path, 'dataset.none', { name, nearest: didYouMean(name, found.known) });
		};
		collection.scenarios.forEach((scenario, at) => {
			if (scenario.rows) referData(['scenarios', at, 'rows'], scenario.rows.data);
			referCredential(looked, file, ['scenarios', at, 'credential'], scenario.credential);
			referConnection(looked, file, ['scenarios', at, 'connection'], scenario.connection);
			scenario.steps.forEach((step, index) => {
				const path = ['scenarios', at, 'steps', index];
				const repeated = datasetOfEach(step.each);
				if (repeated) referData([...path, 'each'], repeated);
				for (const { what, field, name } of namedBy(step)) REFER[what](looked, file, [...path, field], name);
				step.send?.checks.forEach((check, n) => {
					const schema = check.kind === 'schema' ? String(check.relations[0]?.expected) : '';
					if (schema && !check.off && !schema.includes('{$') && !files.has(schema))
						wrong(file, [...path, 'checks', n, 'schema'], 'file.missing', { file: schema });
				});
				const schema = step.send?.body?.schema;
				if (schema && !files.has(schema)) wrong(file, [...path, 'body', 'schema'], 'file.missing', { file: schema });
				for (const name of filesOf(step)) {
					if (!name.includes('{$') && !files.has(name)) wrong(file, [...path, 'body'], 'file.missing', { file: name });
				}
			});
		});
	}
};

const REFER: Record<Named['what'], typeof referConnection> = {
	connection: referConnection,
	credential: referCredential,
	'stand-in': ({ workspace, wrong }, file, at, name) =>
		refer(wrong, file, at, 'stand-in', name, [...workspace.standIns.keys()])
};

/** Files that a step's body is read from, as written. */
function filesOf(step: Step): string[] {
	const body = step.send?.body;
	if (!body) return [];
	if (body.kind === 'file') return [String(body.value)];
	if (body.kind === 'soap') return parseSoap(body.value).attachments.map(({ file }) => file);
	if (body.kind !== 'multipart' || !Array.isArray(body.value)) return [];
	return body.value.flatMap((part) => (isObject(part) && typeof part.file === 'string' ? [part.file] : []));
}
