import { app } from '$lib/server/app.ts';
import { wholeIn } from '$lib/server/filter.ts';
import { compareChanges, compareTexts, goBackTo, markChange, pageOf } from '$lib/server/history.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import type { ChangeHistory, ComparedChanges, VersionTexts } from '$lib/wire.ts';
import * as yup from 'yup';

const NEWEST = Number.MAX_SAFE_INTEGER;

/** A page of what was written, `?before=N`; or two changes side by side, `?from=N&to=N`, and one file of them by `path`. */
export const GET = endpoint(async ({ params, url }): Promise<ChangeHistory | ComparedChanges | VersionTexts> => {
	const { projects, store } = await app();
	const { name } = await projects.open(params.project!);
	if (url.searchParams.has('from')) {
		const pair: [number, number] = [wholeIn(url, 'from', 0, NEWEST), wholeIn(url, 'to', NEWEST, NEWEST)];
		const path = url.searchParams.get('path');
		return path === null ? compareChanges(store, name, pair) : compareTexts(store, name, pair, path);
	}
	const { spans, more } = await pageOf(store, name, wholeIn(url, 'before', 0, NEWEST));
	return { spans, more, marks: await store.history.marks(name), newest: await store.history.newest(name) };
});

const order = yup
	.object({
		back: yup
			.object({ to: yup.string().required(), paths: yup.array(yup.string().required()).max(20_000) })
			.noUnknown()
			.default(undefined),
		mark: yup
			.object({ name: yup.string().trim().required(), change: yup.string().required() })
			.noUnknown()
			.default(undefined),
		unmark: yup.string()
	})
	.noUnknown();

/** Brings a project, or some of its files, back to what it was, and gives what takes that back; or names a change. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, store } = await app();
	const project = await projects.open(params.project!);
	const { back, mark, unmark } = await readBody(request, order);
	if (back) {
		const { paths = [] } = back;
		// single files may go back to before a change, which has a number of its own only by chance
		const exact = paths.length === 0 || !/^\d{1,15}$/.test(back.to);
		const change = exact ? await store.history.find(project.name, back.to) : Number(back.to);
		return { written: await goBackTo(store, projects, project, change, paths) };
	}
	if (mark) await markChange(store.history, project.name, mark.name, mark.change);
	if (unmark) await store.history.unmark(project.name, unmark);
	return { marks: await store.history.marks(project.name) };
});
