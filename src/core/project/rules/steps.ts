import { didYouMean } from '../../messages.ts';
import { filesOfBody } from '../../bodies/index.ts';
import { checkKind } from '../../checks/index.ts';
import { namedBy, type Named } from '../../steps/index.ts';
import type { SendSpec } from '../../model/step.ts';
import { datasetFile, datasetOfEach } from '../../model/rows.ts';
import { hasExpression } from '../../values/index.ts';
import { refer, referConnection, referCredential, type CollectionRule } from './rule.ts';

/** Connections, credentials, datasets and files that a collection, its scenarios and steps name. */
export const steps: CollectionRule = {
	name: 'steps',
	look(collection, file, looked) {
		const { files, wrong, warn } = looked;
		referConnection(looked, file, ['connection'], collection.connection);
		referCredential(looked, file, ['credential'], collection.credential);
		const referData = (path: (string | number)[], name: string) => {
			const found = datasetFile(name, files);
			if ('several' in found) wrong(file, path, 'dataset.several', { name, files: found.several.join(' and ') });
			else if ('known' in found) wrong(file, path, 'dataset.none', { name, nearest: didYouMean(name, found.known) });
		};
		let lost = false;
		collection.scenarios.forEach((scenario, at) => {
			if (scenario.rows?.data) referData(['scenarios', at, 'rows'], scenario.rows.data);
			referCredential(looked, file, ['scenarios', at, 'credential'], scenario.credential);
			referConnection(looked, file, ['scenarios', at, 'connection'], scenario.connection);
			scenario.steps.forEach((step, index) => {
				const path = ['scenarios', at, 'steps', index];
				const repeated = datasetOfEach(step.each);
				if (repeated) referData([...path, 'each'], repeated);
				for (const { what, field, name } of namedBy(step)) REFER[what](looked, file, [...path, field], name);
				const referFile = (at: (string | number)[], name: string) => {
					if (name && !hasExpression(name) && !files.has(name))
						wrong(file, [...path, ...at], 'file.missing', { file: name });
				};
				if (!lost && step.send && goesNowhere(step.send, scenario.connection || collection.connection)) {
					// one connection, named once, serves them all
					lost = true;
					warn(file, [...path, 'send'], 'lint.noConnection', { path: step.send.target });
				}
				step.send?.checks.forEach((check, n) => {
					if (check.off) return;
					for (const { expected } of check.relations)
						for (const name of checkKind(check.kind)?.files?.(expected) ?? [])
							referFile(['checks', n, check.kind], name);
				});
				const { body } = step.send ?? {};
				if (body?.schema) referFile(['body', 'schema'], body.schema);
				if (body) for (const name of filesOfBody(body)) referFile(['body'], name);
			});
		});
	}
};

/** Whether a call is for no host: its step names no connection, nothing around it does, and it is no whole address. */
const goesNowhere = ({ target, connection }: SendSpec, around: string): boolean =>
	target !== '' && !connection && !around && !/^(?:[a-z][a-z0-9+.-]*:\/\/|\{\$)/i.test(target);

const REFER: Record<Named['what'], typeof referConnection> = {
	connection: referConnection,
	credential: referCredential,
	'stand-in': ({ workspace, wrong }, file, at, name) =>
		refer(wrong, file, at, 'stand-in', name, [...workspace.standIns.keys()])
};
