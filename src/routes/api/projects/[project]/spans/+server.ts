import { app } from '$lib/server/app.ts';
import { stepOfSpan } from '$lib/server/finding.ts';
import { endpoint } from '$lib/server/respond.ts';

/** The steps whose calls carry these spans (W3C Trace Context), as `collection/scenario/step` by the beginning of the span. */
export const GET = endpoint(async ({ params, url }) => {
	const { projects } = await app();
	const { workspace } = await projects.open(params.project!);
	const asked = (url.searchParams.get('of') ?? '').split(',').slice(0, 1000);
	return Object.fromEntries(
		asked.flatMap((span) => stepOfSpan(workspace, span) ?? []).map((one) => [one.span, one.step])
	);
});
