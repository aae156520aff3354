import { HeronError, textOf } from '#core/errors.ts';
import type { MessageCode } from '#core/messages.ts';
import { parseJson, writeJson } from '#core/model/json.ts';
import { json, type RequestEvent } from '@sveltejs/kit';
import * as yup from 'yup';

const STATUS: Partial<Record<MessageCode, number>> = {
	'request.notFound': 404,
	'door.ended': 401,
	'door.token': 401,
	'door.name': 403,
	'door.origin': 403,
	'door.grant': 403,
	'door.network': 403,
	'folder.elsewhere': 403,
	'folder.unnamed': 403,
	'store.conflict': 409,
	'publish.gap': 409,
	'publish.other': 409,
	'store.readOnly': 503,
	'store.failed': 500,
	'run.many': 429,
	'run.crashed': 500,
	'server.failed': 500,
	'project.invalid': 422
};

/** The status that an error is answered with. */
export const statusOf = ({ code }: HeronError): number => STATUS[code] ?? 400;

/** Problem details (RFC 9457) of anything that was thrown; never a stack. */
export function problemResponse(thrown: unknown, as?: number): Response {
	const error = thrown instanceof HeronError ? thrown : new HeronError('server.failed', { detail: textOf(thrown) });
	if (!(thrown instanceof HeronError)) console.error(thrown);
	const status = as ?? STATUS[error.code] ?? 400;
	const { code, message, values, problems } = error;
	return json(
		{ type: 'about:blank', title: message, status, detail: message, code, values, problems },
		{ status, headers: { 'content-type': 'application/problem+json' } }
	);
}

/** An endpoint whose answer is data or a response, and whose errors are problem details. */
export const endpoint =
	<E extends RequestEvent>(handle: (event: E) => Promise<unknown>) =>
	async (event: E): Promise<Response> => {
		try {
			const result = await handle(event);
			return result instanceof Response
				? result
				: result === undefined
					? new Response(null, { status: 204 })
					: new Response(writeJson(result), { headers: { 'content-type': 'application/json' } });
		} catch (error) {
			return problemResponse(error);
		}
	};

// its own wording prints the value, which cannot be done with every integer
yup.setLocale({
	mixed: { notType: ({ path, type }) => `${path} must be ${/^[aeiou]/.test(type) ? 'an' : 'a'} ${type}` }
});

/** The body of a request as data of a shape. @throws HeronError request.json, request.shape with everything that is wrong */
export async function readBody<T>(request: Request, schema: yup.Schema<T>): Promise<T> {
	let value: unknown;
	try {
		value = parseJson(await request.text());
	} catch {
		throw new HeronError('request.json');
	}
	try {
		return await schema.validate(value, { strict: true, abortEarly: false });
	} catch (error) {
		if (!(error instanceof yup.ValidationError)) throw error;
		throw new HeronError('request.shape', { detail: error.errors.join('; ') });
	}
}
