/** Whether keys that are pressed there write something. */
export const isField = (target: EventTarget | null | undefined): boolean => {
	const { isContentEditable, tagName = '' } = (target ?? {}) as Partial<HTMLElement>;
	return !!isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(tagName);
};

/** The field that somebody is in. */
export function fieldInUse(): Element | undefined {
	const active = globalThis.document?.activeElement;
	return active && isField(active) ? active : undefined;
}
