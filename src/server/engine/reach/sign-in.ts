import { HeronError } from '#core/errors.ts';
import type { PreparedRequest } from '#core/model/exchange.ts';
import type { Reply } from '#core/model/reply.ts';
import {
	found,
	judgeAuthentication,
	judgeHeaderNames,
	judgeHttpError,
	judgeSecurity,
	judgeSkew,
	passed,
	schemesOf
} from '#core/reach/index.ts';
import { prepareCall } from '#core/run/index.ts';
import type { OpenCall } from './call.ts';
import { wordsOf, type Check } from './check.ts';

/** Authentication: what is asked for, and whether what we have will do; the answer, undefined where the check ends there. */
export async function checkSignIn(check: Check, open: OpenCall): Promise<Reply | undefined> {
	const { log, target, aimed, credential: name } = check;
	const started = performance.now();
	const signed = name ? await signedCall(check, open, started) : { request: open.request, answer: open.reply };
	if (!signed) return undefined;
	const { answer, request } = signed;
	const ms = performance.now() - started;
	const secured = aimed.soap ? judgeSecurity(target, answer, ms) : undefined;
	if (secured) {
		for (const stage of secured) log.add(stage);
		return undefined;
	}
	const skew = judgeSkew(answer, Date.now(), ms);
	const { value } = check.context.workspace.credentials.get(name) ?? { value: undefined };
	const denied = judgeHeaderNames(target, request, answer, value, ms) ?? judgeAuthentication(target, answer, ms);
	if (denied && answer.status >= 400) {
		if (skew) denied.facts = [...denied.facts, ['clocks', skew.finding]];
		log.add(denied);
		const ofName = denied.code === 'auth.missingHeader' || denied.code === 'auth.headerSlip';
		if (answer.status === 401 || answer.status === 403 || ofName) return undefined;
	} else if (denied?.code === 'auth.headerSlip') log.add({ ...denied, state: 'warning' });
	else if (skew) log.add(skew);
	else if (name) {
		const asked = open.reply.status === 401 ? `the server asks for ${schemesOf(open.reply).words}; ` : '';
		log.add(passed('authentication', ms, `${asked}${name} (${target.credential.label}) is accepted`));
	} else log.add(passed('authentication', ms, 'nothing is asked for'));
	return answer;
}

/** Sends with the credential; undefined where it could not be used. */
async function signedCall(
	{ log, target, context, aimed, credential }: Check,
	{ request: open, step }: OpenCall,
	started: number
): Promise<{ request: PreparedRequest; answer: Reply } | undefined> {
	const { memory, scope, chosen } = aimed;
	try {
		const full = await prepareCall(chosen, { ...step, credential }, memory, context, scope);
		const outcome = await context.ports.send({ ...open }, memory.session, context.signal, full.signIn?.authorizer);
		log.exchanges.push(...(full.signIn?.legs ?? []), ...outcome.exchanges);
		const last = outcome.exchanges.at(-1);
		if (outcome.error || !last?.reply)
			throw outcome.error ?? new HeronError('send.failed', { detail: 'there is no reply' });
		const isOpen = ([name, value]: [string, string]) => open.headers.some(([n, v]) => n === name && v === value);
		const origins = last.requestHeaders.map((header, i) =>
			isOpen(header) ? (open.origins[i] ?? 'added') : 'credential'
		);
		return { request: { ...open, headers: last.requestHeaders, origins }, answer: last.reply };
	} catch (error) {
		const known = error instanceof HeronError ? error : new HeronError('send.failed', { detail: String(error) });
		const ms = performance.now() - started;
		if (known.code === 'tls.client') log.add(judgeHttpError(target, known, ms, false));
		else log.add(found('auth.failed', { detail: wordsOf(known) }, { ms }));
		return undefined;
	}
}
