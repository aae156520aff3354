import { HeronError } from '#core/errors.ts';
import { credentialKind } from '#core/auth/index.ts';
import { inEnvironment } from '#core/model/connection.ts';
import { localIn } from '#core/model/local.ts';
import { whereUsed } from '#core/run/index.ts';
import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

/** What a project holds, in short: enough for lists, the waterline and finding. */
export const GET = endpoint(async ({ params }) => {
	const { projects } = await app();
	const { name, workspace, files } = await projects.open(params.project!);
	const { project, environments, connections, credentials, collections, suites, problems } = workspace;
	const uses = whereUsed(workspace, project.environment);
	const folder = await projects.folder(name);
	return {
		name,
		title: project.title || name,
		...(folder.dir ? { folder } : {}),
		environment: project.environment,
		environments: [...environments.values()].map(({ name, title, guarded, secrets, standIns }) => ({
			name,
			title,
			guarded,
			secrets,
			standIns,
			// names of variables that have a value of this machine
			local: Object.keys(localIn(workspace.local, name))
		})),
		connections: [...connections.values()].map((connection) => ({
			name: connection.name,
			title: connection.title,
			base: connection.base,
			// by environment where it differs, and under the empty name
			credentials: Object.fromEntries(
				['', ...connection.variants.keys()].map((environment) => [
					environment,
					inEnvironment(connection, environment).credential
				])
			),
			unverified: [['', connection] as const, ...connection.variants].some(
				// a stand-in's certificate is made when it starts
				([environment, one]) => one.tls?.verify === false && !environments.get(environment)?.standIns[connection.name]
			),
			uses: uses.connections.get(connection.name) ?? []
		})),
		credentials: [...credentials.values()].map(({ name, title, kind }) => ({
			name,
			title,
			kind,
			label: credentialKind(kind)?.label ?? kind,
			uses: uses.credentials.get(name) ?? [],
			connections: uses.borneBy.get(name) ?? []
		})),
		suites: [...suites.values()],
		ordered: workspace.project.order.length > 0,
		collections: [...collections.values()].map(({ name, title, folder, connection, scenarios }) => ({
			name,
			title,
			folder,
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
				...(s.rows ? { data: s.rows.data } : {}),
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

/** Removes a project with its files, runs and secrets; not while a run of it goes on. */
export const DELETE = endpoint(async ({ params }) => {
	const { projects, runs, host } = await app();
	const name = params.project!;
	if (runs.isBusy({ project: name }))
		throw new HeronError('request.wrong', { detail: `a run of "${name}" goes on: stop it first` });
	await projects.removeAll(name);
	host.leave(name);
});
