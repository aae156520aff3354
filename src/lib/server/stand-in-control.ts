import { HeronError, textOf } from '#core/errors.ts';
import { isObject, parseJson, writeJson, type Json } from '#core/model/json.ts';
import http from 'node:http';
import https from 'node:https';

const CONTROL_MS = 5000;

/** One call to a stand-in of ours: its certificate is made when it starts, and checked by nobody. */
function callOwn(
	address: string,
	method: string,
	body: Uint8Array | undefined,
	timeout: number
): Promise<{ status: number; text: string }> {
	return new Promise((resolve, reject) => {
		const open = address.startsWith('https:') ? https : http;
		const request = open.request(address, { method, rejectUnauthorized: false, timeout }, (response) => {
			const chunks: Buffer[] = [];
			response.on('data', (chunk: Buffer) => chunks.push(chunk));
			response.on('error', reject);
			response.on('end', () => resolve({ status: response.statusCode ?? 0, text: Buffer.concat(chunks).toString() }));
		});
		request.on('error', reject).on('timeout', () => request.destroy(new Error('it does not answer')));
		request.end(body);
	});
}

/** Asks a stand-in for something below its own path. @throws HeronError standIn.unreachable, standIn.control with its reason */
export async function askStandIn(
	address: string,
	method: string,
	path: string,
	body?: Json,
	within = CONTROL_MS
): Promise<Json | undefined> {
	const { origin } = new URL(address);
	const sent = body === undefined ? undefined : Buffer.from(writeJson(body));
	const { status, text } = await callOwn(origin + path, method, sent, within).catch((cause: unknown) => {
		throw new HeronError('standIn.unreachable', { detail: textOf(cause) }, { cause });
	});
	const given = text ? parseJson(text) : undefined;
	if (status < 300) return given;
	const detail = isObject(given) ? String(given.detail ?? status) : String(status);
	throw new HeronError('standIn.control', { detail });
}
