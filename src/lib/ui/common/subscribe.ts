/** So many streams are held by all tabs together: a browser keeps six connections to a server, and pages need the others. */
const HELD = 4;
const PAUSE_MS = 2000;
const LONGEST_PAUSE_MS = 30_000;

interface Subscription {
	/** Where to begin, each time. */
	url(): string;
	message(message: MessageEvent<string>): void;
	/** @param again whether something may have been missed since the last time */
	opened?(again: boolean): void;
}

/**
 * Subscribes to server-sent events for as long as the page can be seen: held open, a stream of a tab that nobody looks at would
 * keep another one from loading. Beyond the streams that all tabs may hold, it asks in turn: the server tells what there
 * is, and ends. A server that is away, or refuses, is asked again.
 * @returns ends it
 */
export function subscribe({ url, message, opened }: Subscription): () => void {
	let source: EventSource | undefined;
	let timer: ReturnType<typeof setTimeout> | undefined;
	let release: (() => void) | undefined;
	let before = false;
	let pause = PAUSE_MS;
	/** Which time it began: what comes of an earlier one is nothing any more. */
	let time = 0;

	const end = () => {
		time++;
		clearTimeout(timer);
		source?.close();
		release?.();
		source = release = undefined;
	};
	const begin = async () => {
		end();
		const own = time;
		const held = await hold();
		if (own !== time) return held?.();
		release = held;
		listen(held !== undefined);
	};
	const listen = (held: boolean) => {
		const at = url();
		const stream = (source = new EventSource(held ? at : `${at}${at.includes('?') ? '&' : '?'}turn`));
		stream.onmessage = message;
		stream.onopen = () => {
			pause = PAUSE_MS;
			opened?.(before);
			before = true;
		};
		stream.onerror = () => {
			// the browser tries again by itself, but not where it was refused
			if (held && stream.readyState !== EventSource.CLOSED) return;
			end();
			timer = setTimeout(() => void begin(), pause);
			pause = Math.min(pause * 2, LONGEST_PAUSE_MS);
		};
	};
	const look = () => {
		if (document.visibilityState === 'hidden') end();
		else void begin();
	};
	document.addEventListener('visibilitychange', look);
	look();
	return () => {
		document.removeEventListener('visibilitychange', look);
		end();
	};
}

/** One of the streams that all tabs may hold; undefined when all are held. Where nobody counts them, there is always one. */
async function hold(): Promise<(() => void) | undefined> {
	// there are none beyond loopback without TLS
	const locks = (navigator as { locks?: LockManager }).locks;
	if (!locks) return () => {};
	for (let n = 0; n < HELD; n++) {
		const release = await new Promise<(() => void) | undefined>((resolve) => {
			const taken = (lock: Lock | null) =>
				lock ? new Promise<void>((over) => resolve(() => over())) : resolve(undefined);
			locks.request(`stream ${n}`, { ifAvailable: true }, taken).catch(() => resolve(() => {}));
		});
		if (release) return release;
	}
	return undefined;
}
