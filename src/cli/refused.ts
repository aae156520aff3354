import { messageOf } from '#core/messages.ts';
import type { Problem } from '#core/errors.ts';
import { fileOf } from '#core/documents/kinds.ts';
import { createRedactor } from '#core/redact/index.ts';
import type { Service } from '#core/stand-in/index.ts';
import type { ProjectFolder } from '#server/engine/index.ts';

/**
 * What of the answers of stand-ins cannot be as it is written, at its place.
 * Secrets are hidden; `environment` is whether values of one are there.
 */
export async function refusedIn(
	{ documents }: Pick<ProjectFolder, 'documents'>,
	services: readonly Pick<Service, 'spec' | 'refused'>[],
	{ environment, secrets }: { environment: boolean; secrets: Record<string, string> }
): Promise<Problem[]> {
	const redactor = createRedactor(secrets);
	const out: Problem[] = [];
	for (const service of services) {
		const file = fileOf('stand-in', service.spec.name);
		for (const { entry, id, turn, message } of await service.refused(environment)) {
			const path = ['answers', entry];
			const answer = turn > 0 ? `${id}, answer ${turn} in turn` : id;
			out.push({
				code: 'standIn.refused',
				message: redactor.text(messageOf('standIn.refused', { answer, detail: message })),
				file,
				path,
				...documents.get(file)?.placeOf(path)
			});
		}
	}
	return out;
}
