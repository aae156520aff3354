import { mediaType, type HeaderList } from '#core/model/reply.ts';
import type { StoredBody } from '$lib/wire.ts';
import { api } from '../common/api.ts';
import type { OpenedBody, OrderName, Orders } from './reader.worker.ts';

/** A body that the reader holds: everything about it is asked of the worker, so that a large one holds up no page. */
export interface Reading extends OpenedBody {
	ask<N extends OrderName>(name: N, order: Omit<Orders[N]['order'], 'key'>): Promise<Orders[N]['answer']>;
	/** The bytes as they came. */
	bytes(): Promise<Uint8Array>;
	/** By which other bodies speak of it. */
	key: string;
}

/** So many bodies are held; the one that was not asked for longest goes first. */
const KEPT = 12;

interface Waiting {
	resolve(answer: unknown): void;
	reject(error: Error): void;
}

// one worker for the page, made when the first body is looked at
let worker: Worker | undefined;
let last = 0;
const waiting = new Map<number, Waiting>();
const readings = new Map<string, Promise<Reading>>();

function start(): Worker {
	if (worker) return worker;
	const started = new Worker(new URL('./reader.worker.ts', import.meta.url), { type: 'module' });
	worker = started;
	started.onmessage = ({ data }: MessageEvent<{ id: number; answer?: unknown; trouble?: string }>) => {
		const found = waiting.get(data.id);
		waiting.delete(data.id);
		if (data.trouble === undefined) found?.resolve(data.answer);
		else found?.reject(new Error(data.trouble));
	};
	started.onerror = (event) => {
		// what was held is gone with it: the next look begins anew
		started.terminate();
		worker = undefined;
		readings.clear();
		for (const { reject } of waiting.values()) reject(new Error(`the body cannot be read: ${event.message}`));
		waiting.clear();
	};
	return started;
}

function ask<N extends OrderName>(name: N, order: Orders[N]['order']): Promise<Orders[N]['answer']> {
	const id = ++last;
	return new Promise((resolve, reject) => {
		waiting.set(id, { resolve: resolve as (answer: unknown) => void, reject });
		start().postMessage({ id, name, order });
	});
}

const keyOf = (stored: StoredBody, headers: HeaderList): string => {
	const { type, charset = '' } = mediaType(headers);
	return `${stored.hash} ${type} ${charset}`;
};

/** Opens a recorded body; one that is open already is given again. */
export function openBody(stored: StoredBody, headers: HeaderList): Promise<Reading> {
	const key = keyOf(stored, headers);
	let reading = readings.get(key);
	if (reading) readings.delete(key);
	else {
		reading = open(key, stored, headers);
		reading.catch(() => readings.delete(key));
	}
	// the newest stands last
	readings.set(key, reading);
	for (const old of [...readings.keys()].slice(0, -KEPT)) {
		readings.delete(old);
		void ask('drop', { key: old });
	}
	return reading;
}

async function open(key: string, stored: StoredBody, headers: HeaderList): Promise<Reading> {
	const opened = await ask('open', { key, hash: stored.hash, headers: [...headers] });
	if (stored.kept < stored.size)
		opened.notes.unshift(`only the first ${stored.kept} of ${stored.size} bytes were kept`);
	return {
		...opened,
		key,
		ask: (name, order) => ask(name, { ...order, key } as Orders[typeof name]['order']),
		bytes: () => api.bytes(`/bodies/${stored.hash}`)
	};
}
