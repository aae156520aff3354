import type { Problem } from '#core/errors.ts';
import type { Json } from '#core/model/json.ts';
import { load as loadFrom } from '#ui/common/load.ts';
import { redirect } from '@sveltejs/kit';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params }) => {
	const path = `collections/${params.name}.yaml`;
	const stored = await loadFrom<{ revision: number; value: Json; problems: Problem[] }>(
		`/projects/${params.project}/files/${path}`
	);
	// a file that is not YAML is mended as text
	if (stored.value === null) redirect(307, `/${params.project}/text/${path}`);
	return { project: params.project, name: params.name, stored };
};
