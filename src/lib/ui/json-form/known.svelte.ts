import type { Json, JsonObject } from '#core/model/json.ts';
import type { BodySchema } from '$lib/wire.ts';
import { api } from '../common/api.ts';
import type { ProjectState } from '../shell/project.svelte.ts';
import { definitionsState } from '../soap/definitions.svelte.ts';

export type KnownSchema = BodySchema;

// asked once as long as the files are the same; a few steps are worked with at a time
const MOST = 30;
let kept: { key: string; found: Record<string, Promise<KnownSchema | null>> } | undefined;

/** What of a step says which schema its body has. */
interface Asked {
	send: Json | undefined;
	connection: Json | undefined;
	type: Json | undefined;
	schema: Json | undefined;
	/** The kind of body: json, form or multipart. */
	kind: string;
}

/** The schema of a step's body of JSON or of a form; null where nothing is known. @throws ApiError */
export function schemaFor(
	project: ProjectState,
	collection: string,
	{ send, connection, type, schema, kind }: Asked
): Promise<KnownSchema | null> {
	const files = project.overview.files.filter((path) => /^(definitions|schemas|connections)\//.test(path));
	const key = `${project.name}\n${definitionsState.read}\n${files.join('\n')}`;
	if (kept?.key !== key || Object.keys(kept.found).length > MOST) kept = { key, found: {} };
	const body: JsonObject = {
		[kind]: kind === 'json' ? null : [],
		...(type ? { type } : {}),
		...(schema ? { schema } : {})
	};
	const step: JsonObject = { id: 'step', send: send ?? '', ...(connection ? { connection } : {}), body };
	const asked = JSON.stringify([collection, step]);
	return (kept.found[asked] ??= api.post<KnownSchema | null>(`/projects/${project.name}/body-schema`, {
		...{ collection, step, environment: project.environment }
	}));
}
