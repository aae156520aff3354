import { parseJson } from '#core/model/json.ts';
import type { LiveEvent } from '$lib/wire.ts';

export interface Following {
	stop(): void;
}

/** Hears a run; a connection that breaks is made again, and what was missed comes first. */
export function followRun(id: string, after: number, onEvent: (event: LiveEvent) => void): Following {
	const source = new EventSource(`/api/runs/${id}/events?after=${after}`);
	source.onmessage = (message: MessageEvent<string>) => {
		const event = parseJson(message.data) as unknown as LiveEvent;
		if (event.type === 'end') source.close();
		onEvent(event);
	};
	return { stop: () => source.close() };
}
