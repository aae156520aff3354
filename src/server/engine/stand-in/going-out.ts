import { textOf } from '#core/errors.ts';
import type { HeaderList } from '#core/model/reply.ts';
import type { Redactor } from '#core/redact/index.ts';
import type { Asked, CallLater, CallRecord, Came, Outgoing, Service } from '#core/stand-in/index.ts';
import { wallClock } from '../clock.ts';
import { bodyText, type Recording } from './log.ts';
import type { Waits } from './waits.ts';

/** Sends a call, and gives what came back. @throws HeronError send.* */
export type Send = (outgoing: Outgoing) => Promise<{ status: number; headers: HeaderList; body: Uint8Array }>;

interface Tools {
	send: Send;
	waits: Waits;
	redactor: Redactor;
	record: Recording;
	service(): Service | undefined;
}

/** The calls that a stand-in makes itself: those that follow an answer, that somebody asks for, and that go out over and over. */
export class GoingOut {
	readonly #tools: Tools;
	#beats: NodeJS.Timeout[] = [];

	constructor(tools: Tools) {
		this.#tools = tools;
	}

	/** A call that goes out; gives what is told of it in the log. */
	async call(
		{ after, outgoing, error }: CallLater,
		why: Pick<CallRecord, 'calledBack' | 'sent'>
	): Promise<CallRecord | undefined> {
		const { send, waits, redactor, record, service } = this.#tools;
		if (after > 0) await waits.pause(after);
		if (waits.signal.aborted) return undefined;
		const at = Math.round(wallClock());
		const began = performance.now();
		let came: Came | undefined;
		let wrong = error;
		if (outgoing)
			try {
				came = await send(outgoing);
			} catch (thrown) {
				wrong = textOf(thrown);
			}
		const ms = Math.round(performance.now() - began);
		const held =
			why.sent === undefined || !outgoing ? undefined : await service()?.sentFaults(why.sent, outgoing, came);
		const notes = [...(wrong ? [wrong] : []), ...(held?.came ?? []).map((one) => `its answer: ${one}`)];
		return record({
			...{ at, ms, by: '', tried: [], faults: [], drift: held?.sent ?? [], notes },
			...{ method: outgoing?.method ?? 'POST', target: outgoing?.url ?? '', ...why },
			requestHeaders: outgoing?.headers ?? [],
			requestBody: outgoing ? bodyText(outgoing.body, redactor) : '',
			requestSize: outgoing?.body.length ?? 0,
			status: came?.status ?? 0,
			headers: came?.headers ?? [],
			body: came ? bodyText(came.body, redactor) : '',
			size: came?.body.length ?? 0
		});
	}

	/** Lets a call go out that is nobody's answer. @throws HeronError standIn.call */
	async send(id: string, asked: Asked): Promise<{ later: number; record: Promise<CallRecord | undefined> }> {
		const call = await this.#tools.service()!.send(id, asked);
		return { later: call.after, record: this.call(call, { sent: id }) };
	}

	/** Begins with those that go out over and over, in place of those before. @param origin of the stand-in itself */
	beat({ spec: { calls } }: Service, origin: string): void {
		this.end();
		const nothing: Asked = { method: 'POST', target: '/', headers: [], body: new Uint8Array(), origin };
		this.#beats = calls
			.filter(({ off, every }) => !off && every > 0)
			.map(({ id, every }) => {
				let busy = false;
				return setInterval(() => {
					// one that is slow is not sent twice at a time
					if (busy) return;
					busy = true;
					void this.send(id, nothing)
						.then((sent) => sent.record)
						.finally(() => (busy = false));
				}, every).unref();
			});
	}

	end(): void {
		for (const timer of this.#beats) clearInterval(timer);
		this.#beats = [];
	}
}
