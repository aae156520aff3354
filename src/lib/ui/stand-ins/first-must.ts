import { requestChecks } from '#core/checks/index.ts';
import type { JsonObject } from '#core/model/json.ts';

/** Checks with which each kind starts, for a request. */
export const firstMust = (subject: string): JsonObject => {
	const first: Record<string, JsonObject> = {
		header: { header: 'Authorization', matches: '^Bearer ' },
		query: { query: 'name', present: true },
		path: { path: 'id', matches: '^[0-9]+$' },
		body: { body: '$', present: true },
		that: { that: '$request.method = "POST"' },
		contract: { contract: true },
		size: { size: { atMost: '100 kB' } }
	};
	return first[subject] ?? (requestChecks.find((kind) => kind.key === subject)!.example as JsonObject);
};
