/** A document on the screen. */
interface Shown {
	readonly project: string;
	readonly path: string;
	refresh(): Promise<void>;
	/** Whether it has changes that are on their way to the server, or that the server has not taken yet. */
	readonly pending?: boolean;
}

/** Documents that are on the screen, or were. */
const shown = new Set<WeakRef<Shown>>();

export const isShown = (document: Shown): void => void shown.add(new WeakRef(document));

/** Whether something that was pressed or typed, here or on a page before, is not with the server yet. */
export const anyPending = (): boolean => [...shown].some((one) => one.deref()?.pending);

/**
 * Files were changed elsewhere: documents on the screen follow, but for what is being typed.
 * @param paths those that were changed; left out, any may have been
 */
export async function refreshShown(project: string, paths?: readonly string[]): Promise<void> {
	const stale: Promise<void>[] = [];
	for (const one of shown) {
		const document = one.deref();
		if (!document) shown.delete(one);
		else if (document.project === project && (!paths || paths.includes(document.path)))
			stale.push(document.refresh().catch(() => {}));
	}
	await Promise.all(stale);
}
