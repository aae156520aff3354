import type { MadeRecording, RecordedRow, RecordingMaking } from '#core/exchange/index.ts';
import type { RecordingOrders } from './recording.worker.ts';

/** A recording that a worker holds; it is read in the browser, and goes nowhere. */
export interface OpenRecording {
	rows: RecordedRow[];
	/** What could not be read of it, in words. */
	notes: string[];
	plan(chosen: number[], making: RecordingMaking): Promise<MadeRecording>;
	close(): void;
}

/** Reads an HTTP Archive in a worker. @throws Error in words; AbortError when it was stopped */
export async function openRecording(file: Blob, signal: AbortSignal): Promise<OpenRecording> {
	const worker = new Worker(new URL('./recording.worker.ts', import.meta.url), { type: 'module' });
	let last = 0;
	const waiting = new Map<number, { resolve(answer: unknown): void; reject(error: Error): void }>();
	const end = (error: Error) => {
		worker.terminate();
		for (const { reject } of waiting.values()) reject(error);
		waiting.clear();
	};
	worker.onmessage = ({ data }: MessageEvent<{ id: number; answer?: unknown; trouble?: string }>) => {
		const found = waiting.get(data.id);
		waiting.delete(data.id);
		if (data.trouble === undefined) found?.resolve(data.answer);
		else found?.reject(new Error(data.trouble));
	};
	worker.onerror = (event) => end(new Error(`the recording cannot be read: ${event.message}`));
	signal.addEventListener('abort', () => end(new DOMException('stopped', 'AbortError')));
	const ask = <N extends keyof RecordingOrders>(name: N, order: RecordingOrders[N]['order']) =>
		new Promise<RecordingOrders[N]['answer']>((resolve, reject) => {
			const id = ++last;
			waiting.set(id, { resolve: resolve as (answer: unknown) => void, reject });
			worker.postMessage({ id, name, order });
		});
	const opened = await ask('open', { file }).catch((error: unknown) => {
		worker.terminate();
		throw error;
	});
	return {
		...opened,
		plan: (chosen, making) => ask('plan', { chosen, making }),
		close: () => worker.terminate()
	};
}
