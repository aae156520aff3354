import { HeronError } from '#core/errors.ts';
import { same } from '#core/model/json.ts';
import { withScenariosChanged, type ScenarioChange } from '#core/refactor/index.ts';
import { app } from '$lib/server/app.ts';
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

/** Changes scenarios that were chosen, wherever they are. Gives the texts before. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects } = await app();
	const { scenarios, do: what, tag = '', to = '' } = await readBody(request, order);
	const { name, documents, files, workspace } = await projects.open(params.project!);
	if (what === 'move' && !workspace.collections.has(to))
		throw new HeronError('request.notFound', { what: `the collection ${to}` });
	if ((what === 'tag' || what === 'untag') && !/^[\w.-]+$/.test(tag))
		throw new HeronError('request.wrong', { detail: `"${tag}" cannot be a tag: letters, digits, _ . and - can` });
	const change: ScenarioChange =
		what === 'move' ? { do: what, to } : what === 'tag' || what === 'untag' ? { do: what, tag } : { do: what };
	const changed: { file: string; text: string; revision: number }[] = [];
	for (const [path, value] of withScenariosChanged(documents.values(), scenarios, change)) {
		if (same(documents.get(path)?.value, value)) continue;
		const before = files.get(path)!;
		const after = await projects.writeValue(name, path, value, before.revision);
		changed.push({ file: path, text: before.bytes.toString('utf8'), revision: after.revision });
	}
	return { changed };
});
