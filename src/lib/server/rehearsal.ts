import type { RehearsedStep } from '#core/run/index.ts';
import { base64ToBytes, utf8 } from '#core/values/index.ts';
import type { RehearseAnswer } from '#server/engine/protocol.ts';
import { shownWire, type ShownWire } from './wire.ts';

/** One step of a rehearsal as a page shows it. */
interface ShownRehearsed extends Pick<
	RehearsedStep,
	'scenario' | 'row' | 'pass' | 'step' | 'title' | 'note' | 'trouble'
> {
	wire?: ShownWire;
}
export interface RehearsalAnswer {
	steps: ShownRehearsed[];
	more: boolean;
}

export const shownRehearsal = ({ steps, more }: RehearseAnswer): RehearsalAnswer => ({
	more,
	steps: steps.map(({ scenario, row, pass, step, title, note, trouble, ...request }) => {
		const { method, url, headers, origins, body, credential, pieces, later } = request;
		const at = { scenario, row, pass, step, title, note, trouble };
		if (!method || !url || !headers || !origins || !credential || !pieces) return at;
		const bytes = !body ? new Uint8Array() : 'text' in body ? utf8(body.text) : base64ToBytes(body.base64);
		const wire = shownWire({
			method,
			url,
			headers,
			origins,
			body: bytes,
			credential,
			pieces,
			...(later ? { later } : {})
		});
		return { ...at, wire };
	})
});
