import { parseJson } from '#core/model/json.ts';
import type { LiveEvent } from '$lib/wire.ts';
import { released } from '../common/press.ts';

export interface Following {
	stop(): void;
}

/** Hears a run; a connection that breaks is made again, and what was missed comes first. */
export function followRun(id: string, after: number, onEvent: (event: LiveEvent) => void): Following {
	const source = new EventSource(`/api/runs/${id}/events?after=${after}`);
	let stopped = false;
	source.onmessage = async (message: MessageEvent<string>) => {
		const event = parseJson(message.data) as unknown as LiveEvent;
		if (event.type === 'end') source.close();
		await released();
		if (!stopped) onEvent(event);
	};
	return {
		stop() {
			stopped = true;
			source.close();
		}
	};
}
