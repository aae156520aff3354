import { describeApi } from '../describe/index.ts';
import { writeJson } from '../model/json.ts';
import type { ReportKind } from './kind.ts';

/** OpenAPI 3.1: a first description of an API that has none, by what was called and answered. */
export const openapi: ReportKind = {
	key: 'openapi',
	ending: 'openapi.json',
	label: 'OpenAPI',
	doc: 'OpenAPI 3.1: a first description of the API, of what was called and answered.',
	open() {
		const describing = describeApi();
		let title = '';
		return {
			event(event) {
				if (event.type === 'run') title = event.run.title;
				if (event.type !== 'step' || event.result.superseded) return '';
				const { call, title: words, exchanges } = event.result;
				const target = /^[A-Z]+ (.*)$/.exec(call)?.[1];
				for (const { method, url, requestHeaders, requestBody, reply, leg, came } of exchanges)
					// what fetched a token was another service's; what came was no call of ours
					if (reply && !leg && !came && reply.cut === undefined)
						describing.look({
							...{ method, url, requestHeaders, requestBody, title: words, ...(target ? { target } : {}) },
							...{ status: reply.status, reason: reply.reason, headers: reply.headers, body: reply.body }
						});
				return '';
			},
			end: () => `${writeJson(describing.document(title || 'An API'), 2)}\n`
		};
	}
};
