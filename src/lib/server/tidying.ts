import type { Policy, Store } from '#server/store/index.ts';

const SOON_MS = 20_000;
const HOURLY_MS = 3_600_000;

export interface Tidying {
	/** Something has ended: what is old by now may go. */
	soon(): void;
	close(): void;
}

/** Lets go of what is old: soon after the start, after runs, and each hour; never while something is recorded. */
export function createTidying(store: Store, policy: Policy, isBusy: () => boolean, soonMs = SOON_MS): Tidying {
	let timer: NodeJS.Timeout | undefined;
	let working = false;
	let closed = false;
	const later = (ms: number) => {
		clearTimeout(timer);
		if (!closed) timer = setTimeout(() => void tidy(), ms).unref();
	};
	const tidy = async () => {
		if (working) return;
		if (isBusy()) return later(soonMs);
		working = true;
		try {
			await store.letGo(policy);
		} catch (error) {
			// a database that is locked or full is left alone until the next time; one that was closed meanwhile, for good
			if (!closed) console.error(`old results could not be removed: ${(error as Error).message}`);
		} finally {
			working = false;
			later(HOURLY_MS);
		}
	};
	later(soonMs);
	return {
		soon: () => later(soonMs),
		close() {
			closed = true;
			clearTimeout(timer);
		}
	};
}
