import { HeronError } from '#core/errors.ts';
import { editYaml } from '#core/model/edit.ts';
import { same } from '#core/model/json.ts';
import { withScenariosChanged, type ScenarioChange } from '#core/refactor/index.ts';
import { app } from '$lib/server/app.ts';
import { writtenBy } from '$lib/server/projects.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const order = yup
	.object({
		scenarios: yup.array(yup.string().required()).required().min(1).max(10_000),
		do: yup
			.string()
			.oneOf(['tag', 'untag', 'off', 'on', 'duplicate', 'delete', 'move'] as const)
			.required(),
		tag: yup.string().trim().default('').max(60),
		/** The collection that they are moved to. */
		to: yup.string().default('')
	})
	.noUnknown();

/** Changes scenarios that were chosen, wherever they are. Says what was written. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects } = await app();
	const { scenarios, do: what, tag = '', to = '' } = await readBody(request, order);
	const { name, documents, files, workspace } = await projects.open(params.project!);
	if (what === 'move' && !workspace.collections.has(to))
		throw new HeronError('request.notFound', { what: `the collection ${to}` });
	if ((what === 'tag' || what === 'untag') && !/^[\w.-]+$/.test(tag)) throw new HeronError('name.tag', { name: tag });
	const change: ScenarioChange =
		what === 'move' ? { do: what, to } : what === 'tag' || what === 'untag' ? { do: what, tag } : { do: what };
	const changes = [...withScenariosChanged(documents.values(), scenarios, change)].flatMap(([path, value]) => {
		if (same(documents.get(path)?.value, value)) return [];
		const { bytes, revision } = files.get(path)!;
		return [{ path, bytes: Buffer.from(editYaml(bytes.toString('utf8'), value)), base: revision }];
	});
	return { written: await writtenBy(projects, name, changes) };
});
