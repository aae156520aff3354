import type { FoundSecret } from '#core/exchange/index.ts';
import { parseJson, writeJson, type JsonObject } from '#core/model/json.ts';
import type { WrittenFile } from '$lib/wire.ts';
import { api, fileUrl } from '../common/api.ts';
import { keepSecret } from '../common/secrets.ts';
import type { ProjectState } from '../shell/project.svelte.ts';

/** Other names for secrets than those that suggest themselves. */
export type Names = Readonly<Record<string, string>>;
const nameOfSecret = (names: Names, name: string): string => (names[name] ?? name).trim() || name;

/** The first secret whose name cannot be one. */
export const wrongName = (secrets: readonly FoundSecret[], names: Names): string | undefined => {
	const found = secrets.find(({ name }) => !/^[A-Za-z_]\w*$/.test(nameOfSecret(names, name)));
	return found && nameOfSecret(names, found.name);
};

/** A document with the names that were chosen for secrets. */
export function renamed(value: JsonObject, names: Names): JsonObject {
	const text = writeJson(value);
	const changed = text.replace(/\{\$secret\.(\w+)\}/g, (_, name: string) => `{$secret.${nameOfSecret(names, name)}}`);
	return changed === text ? value : (parseJson(changed) as JsonObject);
}

/** Writes the documents that come with steps, and puts what is secret into the vault. @throws ApiError */
export async function placeBeside(
	project: ProjectState,
	documents: readonly { path: string; value: JsonObject }[],
	secrets: readonly FoundSecret[],
	names: Names
): Promise<WrittenFile[]> {
	const written: WrittenFile[] = [];
	for (const { path, value } of documents) {
		const { revision } = await api.put<{ revision: number }>(fileUrl(project.name, path), {
			value: renamed(value, names),
			revision: 0
		});
		written.push({ path, revision, was: 0 });
	}
	for (const { name, value } of secrets) await keepSecret(project, '', nameOfSecret(names, name), value);
	if (documents.length > 0) await project.reload();
	return written;
}
