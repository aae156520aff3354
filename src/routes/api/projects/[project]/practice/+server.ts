import { REPORT_FILES, type PipelineChoice, type ReportName } from '#core/pipeline/index.ts';
import { app } from '$lib/server/app.ts';
import { practise } from '$lib/server/practice.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const order = yup
	.object({
		suite: yup.string().required().max(200),
		environment: yup.string().default('').max(200),
		folder: yup.string().default('.').max(400),
		reports: yup
			.array(yup.string().oneOf(Object.keys(REPORT_FILES)).required())
			.default([])
			.max(10),
		history: yup.boolean().default(false)
	})
	.noUnknown();

/** Runs the script of a suite as a build server would. It ends when whoever asked goes away. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, sealedOf } = await app();
	const given = await readBody(request, order);
	const project = await projects.open(params.project!);
	const suite = project.workspace.suites.get(given.suite!);
	const environment = given.environment || suite?.environment || project.workspace.project.environment;
	const { secrets } = await sealedOf(project, environment);
	const known = new Set(project.workspace.environments.get(environment)?.secrets ?? []);
	const own = Object.fromEntries(Object.entries(secrets).filter(([name]) => known.has(name)));
	const choice: PipelineChoice = {
		...{ suite: given.suite!, title: suite?.title ?? '', environment, folder: given.folder || '.' },
		...{
			install: ':',
			shards: 1,
			publish: '',
			server: '',
			revision: '',
			as: '',
			cron: '',
			history: given.history ?? false
		},
		reports: (given.reports ?? []) as ReportName[],
		secrets: []
	};
	return practise(project, choice, own, request.signal);
});
