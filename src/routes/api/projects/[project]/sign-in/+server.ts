import type { LegKey } from '#core/auth/index.ts';
import type { FlowAnswer, FlowOrder } from '#server/engine/protocol.ts';
import { app } from '$lib/server/app.ts';
import { shownExchange } from '$lib/server/exchanges.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const order = yup
	.object({
		action: yup.string().oneOf(['start', 'act', 'view', 'callback', 'forget']).required(),
		environment: yup.string().defined(),
		credential: yup.string(),
		flow: yup.string(),
		leg: yup.string(),
		params: yup.string()
	})
	.noUnknown();

const shown = ({ legs, ...rest }: FlowAnswer) => ({
	...rest,
	legs: legs.map(({ exchange, ...leg }) => ({ ...leg, ...(exchange ? { exchange: shownExchange(exchange) } : {}) }))
});

/** Getting a token by hand, leg by leg. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, ask, host, store } = await app();
	const project = await projects.open(params.project!);
	const {
		action,
		environment,
		credential = '',
		flow = '',
		leg = '',
		params: callback = ''
	} = await readBody(request, order);
	if (action === 'forget') {
		await store.vault.remove(project.name, 'token', environment, credential);
		host.forget(project.name, environment, credential);
		return undefined;
	}
	// the page knows by which address it was reached
	const origin = request.headers.get('origin') ?? `http://${request.headers.get('host') ?? '127.0.0.1'}`;
	const orders: Record<string, FlowOrder> = {
		start: { action: 'start', environment, credential, redirect: `${origin}/oauth/callback` },
		act: { action: 'act', environment, flow, leg: leg as LegKey },
		view: { action: 'view', environment, flow },
		callback: {
			action: 'callback',
			environment,
			flow,
			params: callback.includes('?') ? callback.slice(callback.indexOf('?') + 1) : callback
		}
	};
	return shown(await ask('flow', project, environment, orders[action]!));
});
