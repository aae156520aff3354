import type { Problem } from '#core/errors.ts';
import { api, fileUrl } from '#ui/common/api.ts';
import { load as loadFrom } from '#ui/common/load.ts';
import type { PageLoad } from './$types';

// drawn in the browser: what it edits is fetched with it
export const ssr = false;

/** Undefined for what is no text: as text it could not be stored as it was. */
function textOf(bytes: Uint8Array<ArrayBuffer>): string | undefined {
	if (bytes.includes(0)) return undefined;
	try {
		return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
	} catch {
		return undefined;
	}
}

export const load: PageLoad = async ({ params }) => {
	const at = fileUrl(params.project, params.path);
	const { revision, problems } = await loadFrom<{ revision: number; problems: Problem[] }>(at);
	const bytes = await api.bytes(`${at}?raw`);
	return { project: params.project, path: params.path, revision, problems, text: textOf(bytes), size: bytes.length };
};
