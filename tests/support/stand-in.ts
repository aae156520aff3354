import { loadProject } from '#core/project/index.ts';
import type { JsonObject } from '#core/model/json.ts';
import { memorySource } from '#server/engine/index.ts';
import { startStandIns, type StandInsNow } from '#server/engine/stand-in/index.ts';
import { stringify } from 'yaml';

export interface StandInsGiven {
	standIns: Record<string, object>;
	environments?: Record<string, object>;
	files?: Record<string, string | Uint8Array>;
	environment?: string;
	secrets?: Record<string, string>;
	set?: JsonObject;
	faults?: string[];
}

/** A project of these stand-ins, as files say it. */
export function projectOf({ standIns, environments = {}, files = {} }: StandInsGiven) {
	const sources = [
		{ path: 'heron.yaml', text: 'heron: 1\ntitle: Test\n' },
		...Object.entries(standIns).map(([name, value]) => ({
			path: `stand-ins/${name}.yaml`,
			text: stringify({ heron: 1, ...value })
		})),
		...Object.entries(environments).map(([name, value]) => ({
			path: `environments/${name}.yaml`,
			text: stringify({ heron: 1, ...value })
		}))
	];
	const bytes = new Map(
		Object.entries(files).map(([path, data]) => [
			path,
			typeof data === 'string' ? new TextEncoder().encode(data) : data
		])
	);
	const { workspace } = loadProject(sources, new Set(bytes.keys()), (path) => bytes.get(path));
	return { workspace, bytes };
}

/** Starts them on any ports. */
export async function running(given: StandInsGiven): Promise<StandInsNow> {
	const { workspace, bytes } = projectOf(given);
	return startStandIns({
		workspace,
		readFile: (path) => bytes.get(path),
		data: memorySource(bytes),
		names: [],
		environment: given.environment ?? '',
		secrets: given.secrets ?? {},
		set: given.set ?? {},
		port: 0,
		...(given.faults ? { faults: given.faults } : {})
	});
}

export interface Came {
	status: number;
	headers: Headers;
	text: string;
	json(): unknown;
}
/** Asks with the platform's own client. */
export async function ask(
	base: string,
	call: string,
	body?: unknown,
	headers: Record<string, string> = {}
): Promise<Came> {
	const [method = 'GET', target = '/'] = call.split(' ');
	const reply = await fetch(base + target, {
		method,
		redirect: 'manual',
		headers: {
			...(body !== undefined && typeof body !== 'string' ? { 'content-type': 'application/json' } : {}),
			...headers
		},
		...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) })
	});
	const text = await reply.text();
	return { status: reply.status, headers: reply.headers, text, json: () => JSON.parse(text) as unknown };
}
