import { show } from '#core/checks/index.ts';
import type { Json } from '#core/model/json.ts';
import type { StoredStep } from '$lib/wire.ts';

/** What a step sent last: `GET /moorings?full=1`; what it does, where it sent nothing. */
export function callOf(step: StoredStep): string {
	const last = step.exchanges.at(-1);
	if (!last) return step.call;
	// a secret in the address is masked, and then it may be none
	const url = URL.canParse(last.url) ? new URL(last.url) : undefined;
	return `${last.method} ${url ? url.pathname + url.search : last.url}`;
}

/** `name value, name value`. */
export const rowText = (values: Record<string, Json>): string =>
	Object.entries(values)
		.map(([name, value]) => `${name} ${show(value, 40)}`)
		.join(', ');
