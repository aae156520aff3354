import type { Problem } from '#core/errors.ts';
import type { Json } from '#core/model/json.ts';
import { load as loadFrom } from '#ui/common/load.ts';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params }) => ({
	project: params.project,
	name: params.name,
	stored: await loadFrom<{ revision: number; value: Json; problems: Problem[] }>(
		`/projects/${params.project}/files/collections/${params.name}.yaml`
	)
});
