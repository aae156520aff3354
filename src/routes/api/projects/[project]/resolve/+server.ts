import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

/** What does not resolve in an environment, and the variables that do. */
export const GET = endpoint(async ({ params, url }) => {
	const { projects, host, secretsOf } = await app();
	const project = await projects.open(params.project!);
	const environment = url.searchParams.get('environment') ?? '';
	const secrets = secretsOf(project, environment);
	const { problems, values } = await host.resolve(projects.snapshot(project), secrets, environment);
	return { problems, values, secrets: Object.keys(secrets) };
});
