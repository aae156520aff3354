import type { JsonObject } from '#core/model/json.ts';

/** Names of the project's stand-ins, by its files. */
export const standInNames = (files: readonly string[]): string[] =>
	files.flatMap((path) => /^stand-ins\/(.+)\.yaml$/.exec(path)?.[1] ?? []);

/** What a new step of each kind begins with. */
export const freshStep: Record<string, (files: readonly string[]) => JsonObject> = {
	send: () => ({ send: 'GET /' }),
	set: () => ({ set: { name: '' } }),
	wait: () => ({ wait: '500 ms' }),
	call: () => ({ call: '' }),
	receive: (files) => ({ receive: 'POST /', from: standInNames(files)[0] ?? '' }),
	script: () => ({ script: "check('it came', response.status < 400);\n" }),
	stop: () => ({ stop: 'a reason' })
};
