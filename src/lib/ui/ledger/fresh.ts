import type { JsonObject } from '#core/model/json.ts';
import type { ProjectState } from '../shell/project.svelte.ts';

/** What a new step of each kind begins with. */
export const freshStep: Record<string, (project: ProjectState) => JsonObject> = {
	send: () => ({ send: 'GET /' }),
	set: () => ({ set: { name: '' } }),
	wait: () => ({ wait: '500 ms' }),
	call: () => ({ call: '' }),
	receive: (project) => ({ receive: 'POST /', from: project.namesIn('stand-ins')[0] ?? '' }),
	script: () => ({ script: "check('it came', response.status < 400);\n" }),
	stop: () => ({ stop: 'a reason' })
};
