import { parseJson } from '#core/model/json.ts';
import type { LiveEvent } from '$lib/wire.ts';
import { subscribe } from '../common/subscribe.ts';
import { released } from '../common/press.ts';

export interface Following {
	stop(): void;
}

/** Hears a run; a connection that breaks is made again, and what was missed comes first. */
export function followRun(id: string, after: number, onEvent: (event: LiveEvent) => void): Following {
	let last = String(after);
	let stopped = false;
	const take = async (message: MessageEvent<string>) => {
		const event = parseJson(message.data) as unknown as LiveEvent;
		last = message.lastEventId || last;
		if (event.type === 'end') end();
		await released();
		if (!stopped) onEvent(event);
	};
	const end = subscribe({
		url: () => `/api/runs/${id}/events?after=${last}`,
		message: (message) => void take(message)
	});
	return {
		stop() {
			stopped = true;
			end();
		}
	};
}
