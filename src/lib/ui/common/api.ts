import { parseJson, writeJson } from '#core/model/json.ts';
import type { Problem } from '#core/errors.ts';
import { released } from './press.ts';

/** What the server refused, in its words. */
export class ApiError extends Error {
	readonly status: number;
	readonly code: string;
	readonly problems: Problem[];

	constructor(status: number, message: string, code = '', problems: Problem[] = []) {
		super(message);
		this.status = status;
		this.code = code;
		this.problems = problems;
	}
}

async function refused(response: Response): Promise<ApiError> {
	try {
		const body = (await response.json()) as { title: string; code: string; problems: Problem[] };
		return new ApiError(response.status, body.title, body.code, body.problems);
	} catch {
		return new ApiError(response.status, `the server answered ${response.status} ${response.statusText}`);
	}
}

async function call(path: string, init: RequestInit = {}, fetch = globalThis.fetch): Promise<Response> {
	let response: Response;
	try {
		response = await fetch(`/api${path}`, init);
	} catch (error) {
		if (init.signal?.aborted) throw error;
		throw new ApiError(0, 'the server does not answer: is it still running?', 'offline');
	}
	const trouble = response.ok ? undefined : await refused(response);
	if (trouble) {
		await released();
		throw trouble;
	}
	return response;
}

const json = (method: string, body: unknown): RequestInit => ({
	method,
	headers: { 'content-type': 'application/json' },
	body: writeJson(body)
});

const answerOf = async <T>(response: Response): Promise<T> => {
	const text = response.status === 204 ? undefined : await response.text();
	await released();
	return (text === undefined ? undefined : parseJson(text)) as T;
};

/** The server's endpoints, by what is done. @throws ApiError */
export const api = {
	get: async <T>(path: string, fetch?: typeof globalThis.fetch): Promise<T> => answerOf(await call(path, {}, fetch)),
	put: async <T>(path: string, body: unknown): Promise<T> => answerOf(await call(path, json('PUT', body))),
	post: async <T>(path: string, body: unknown = {}, signal?: AbortSignal): Promise<T> =>
		answerOf(await call(path, { ...json('POST', body), ...(signal ? { signal } : {}) })),
	/** Sends a text that may be large as it is. */
	postText: async <T>(path: string, body: string): Promise<T> =>
		answerOf(await call(path, { ...json('POST', ''), body })),
	remove: async (path: string): Promise<void> => void (await call(path, { method: 'DELETE' })),
	upload: async <T>(path: string, bytes: Blob): Promise<T> =>
		(
			await call(path, { method: 'PUT', headers: { 'content-type': 'application/octet-stream' }, body: bytes })
		).json() as Promise<T>,
	/** Answers that come line by line, as JSON. */
	async lines(path: string, body: unknown, hear: (line: unknown) => void, signal: AbortSignal): Promise<void> {
		const response = await call(path, { ...json('POST', body), signal });
		const reader = response.body!.pipeThrough(new TextDecoderStream()).getReader();
		for (let rest = ''; ;) {
			const { done, value } = await reader.read();
			if (done) return;
			const lines = (rest + value).split('\n');
			rest = lines.pop() ?? '';
			for (const line of lines) if (line) hear(JSON.parse(line));
		}
	},
	bytes: async (path: string): Promise<Uint8Array<ArrayBuffer>> =>
		new Uint8Array(await (await call(path)).arrayBuffer())
};

/** A path of a project's file as it stands in an address. */
const encodePath = (path: string): string => path.split('/').map(encodeURIComponent).join('/');
/** Where a file of a project is read and written, below the API. */
export const fileUrl = (project: string, path: string): string => `/projects/${project}/files/${encodePath(path)}`;
/** The page of a file's text. */
export const textPage = (project: string, path: string): string => `/${project}/text/${encodePath(path)}`;

export const messageOf = (error: unknown): string => (error instanceof Error ? error.message : String(error));
