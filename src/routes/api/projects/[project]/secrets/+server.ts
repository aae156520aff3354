import { HeronError } from '#core/errors.ts';
import { secretVariable } from '#core/run/index.ts';
import { referencesIn } from '#core/values/index.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import { readSecrets } from '#server/engine/index.ts';
import * as yup from 'yup';

const NAME = /^[A-Za-z_]\w*$/;

/** The secrets of a project: which there are, and where each one comes from in which environment. Never a value. */
export const GET = endpoint(async ({ params }) => {
	const { projects, store, config } = await app();
	const project = await projects.open(params.project!);
	const kept = await store.vault.list(project.name, 'secret');
	const environments = [...project.workspace.environments.values()];
	const used = [...project.documents.values()].flatMap(({ kind, value }) =>
		kind.name === 'environment' ? [] : referencesIn(value)
	);
	const names = new Set([
		...environments.flatMap((environment) => environment.secrets),
		...used.filter((reference) => reference.root === 'secret').map((reference) => reference.name),
		...kept.map((one) => one.name)
	]);
	const process = readSecrets(config.env, names);
	return {
		secrets: [...names].sort().map((name) => ({
			name,
			variable: secretVariable(name),
			process: Object.hasOwn(process, name),
			kept: kept
				.filter((one) => one.name === name)
				.map(({ environment, updatedAt, readable }) => ({ environment, updatedAt, readable })),
			named: environments
				.filter((environment) => environment.secrets.includes(name))
				.map((environment) => environment.name)
		})),
		reveals: await store.vault.reveals(project.name)
	};
});

const written = yup
	.object({
		environment: yup.string().defined(),
		name: yup.string().required(),
		value: yup.string().defined().max(100_000)
	})
	.noUnknown();

/** Writes or replaces a value in the vault; an empty one takes it away. */
export const PUT = endpoint(async ({ params, request }) => {
	const { projects, store } = await app();
	const project = await projects.open(params.project!);
	const { environment, name, value } = await readBody(request, written);
	if (!NAME.test(name)) throw new HeronError('name.variable', { name });
	if (environment && !project.workspace.environments.has(environment))
		throw new HeronError('request.notFound', { what: `the environment "${environment}"` });
	if (value === '') await store.vault.remove(project.name, 'secret', environment, name);
	else await store.vault.write(project.name, 'secret', environment, name, value);
});
