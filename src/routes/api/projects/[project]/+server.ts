import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

/** What a project holds, in short: enough for lists, the waterline and finding. */
export const GET = endpoint(async ({ params }) => {
	const { projects } = await app();
	const { name, workspace, files } = await projects.open(params.project!);
	const { project, environments, connections, collections, suites, problems } = workspace;
	return {
		name,
		title: project.title || name,
		environment: project.environment,
		environments: [...environments.values()].map(({ name, title, production }) => ({ name, title, production })),
		connections: [...connections.values()].map(({ name, title, base }) => ({ name, title, base })),
		suites: [...suites.values()],
		collections: [...collections.values()].map(({ name, title, connection, scenarios }) => ({
			name,
			title,
			connection,
			through: [
				...new Set(
					scenarios.flatMap((s) => [
						s.connection || connection,
						...s.steps.map((step) => step.send?.connection || s.connection || connection)
					])
				)
			],
			scenarios: scenarios.map((s) => ({
				id: s.id,
				title: s.title,
				tags: s.tags,
				off: s.off,
				steps:
					s.steps.length > 400
						? []
						: s.steps.map((step) => ({
								id: step.id,
								title: step.title,
								call: step.send ? `${step.send.method} ${step.send.target}` : step.kind
							})),
				count: s.steps.length
			}))
		})),
		files: [...files.keys()],
		problems
	};
});
