import type { RunBatch } from '#core/run/index.ts';
import { OUTCOMES } from '#core/run/index.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const text = (most = 2000) => yup.string().defined().max(most);
const count = yup.number().integer().min(0).required();
const duration = yup.number().min(0).required();
const summary = yup
	.object({
		passed: count,
		failed: count,
		errors: count,
		skipped: count,
		unsteady: yup.number().integer().min(0),
		quarantined: yup.number().integer().min(0),
		checks: count,
		checksFailed: count
	})
	.required()
	.noUnknown();
const outcome = yup
	.string()
	.oneOf([...OUTCOMES])
	.required();
const headers = yup.array(yup.tuple([text(), text(300_000)])).required();
const phases = yup.object().required();
const reply = yup
	.object({
		status: yup.number().integer().min(0).max(999).required(),
		reason: text(),
		version: text(40),
		headers,
		body: text(400_000),
		wireSize: duration,
		phases,
		reused: yup.boolean().required()
	})
	.default(undefined);
const exchange = yup.object({
	method: text(200),
	url: text(100_000),
	requestHeaders: headers,
	requestBody: text(400_000),
	startedAt: duration,
	reply
});
const check = yup.object({
	index: yup.number().required(),
	subject: text(),
	relation: text(),
	expected: text(20_000),
	received: text(20_000),
	holds: yup.boolean().required()
});
const result = yup.object({
	scenario: text(400).matches(/^[^/]+\/[^/]+$/),
	step: text(200),
	title: text(),
	index: count,
	kind: text(40),
	call: text(100_000),
	cleanup: yup.boolean().required(),
	outcome,
	checks: yup.array(check).required().max(5000),
	kept: yup.object().required(),
	attempts: count,
	exchanges: yup.array(exchange).required().max(1000),
	startedAt: duration,
	ms: duration,
	round: yup.number().integer().min(1),
	superseded: yup.boolean(),
	unsteady: yup.boolean(),
	quarantine: yup
		.object({
			why: text(),
			who: yup.string().max(400),
			link: yup
				.string()
				.max(2000)
				.matches(/^https?:\/\//i, 'a link is an address of the web'),
			until: text(40),
			over: yup.boolean()
		})
		.noUnknown()
		.default(undefined)
});
const place = yup.object({ scenario: text(400), step: text(200), row: count.optional(), note: yup.string().max(2000) });
const verdict = yup
	.object({
		holds: yup.boolean().required(),
		code: yup.number().oneOf([0, 1, 3]).required(),
		sentences: yup
			.array(
				yup
					.object({
						key: text(40),
						text: text(),
						holds: yup.boolean().required(),
						because: text(),
						places: yup.array(place.noUnknown()).required().max(200)
					})
					.noUnknown()
			)
			.required()
			.max(40),
		covered: yup.object({ touched: count, all: count }).noUnknown().default(undefined),
		notes: yup.array(text()).required().max(1000)
	})
	.noUnknown()
	.default(undefined);
const batch = yup
	.object({
		heron: yup.number().oneOf([1]).required(),
		run: yup
			.object({
				id: yup
					.string()
					.matches(/^[\da-f]{8}(-[\da-f]{4}){3}-[\da-f]{12}$/, 'an id of a run is a UUID')
					.required(),
				startedAt: duration,
				title: text(),
				project: text(),
				environment: text(200),
				suite: text(200),
				job: text(400),
				build: text(400),
				commit: text(400),
				branch: text(400),
				shard: yup.string().max(20),
				revision: count.optional(),
				pinned: yup.string().max(100),
				link: yup
					.string()
					.max(2000)
					.matches(/^https?:\/\//i, 'a link is an address of the web'),
				seed: yup.number().required()
			})
			.required()
			.noUnknown(),
		scenarios: yup
			.array(yup.object({ scenario: text(400), title: text(), collectionTitle: text(), steps: count }))
			.required()
			.max(100_000),
		total: count,
		from: count,
		results: yup.array(result).required().max(10_000),
		summary,
		outcomes: yup
			.array(yup.object({ scenario: text(400), outcome, ms: duration }).noUnknown())
			.required()
			.max(100_000),
		end: yup.object({ ms: duration, stopped: text(), gate: verdict }).noUnknown().default(undefined)
	})
	.noUnknown();

/** Whether this project takes runs from whoever asks; says nothing else of it. */
export const GET = endpoint(async ({ params }) => {
	const { projects } = await app();
	const { name } = await projects.open(params.project!);
	return { name };
});

/** Takes a piece of a run that goes on elsewhere; it may be sent again. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, published } = await app();
	const piece = await readBody(request, batch);
	const { name } = await projects.open(params.project!);
	return published.take(name, piece as unknown as RunBatch);
});
