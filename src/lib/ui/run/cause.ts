import { fails } from '#core/checks/index.ts';
import type { StoredStep } from '$lib/wire.ts';

/** What findings have in common that have the same cause: the same error, or the same checks with the same difference. */
export function causeOf({ error, checks, reason, seq }: StoredStep): string {
	if (error) return `${error.code} ${error.message}`;
	const failing = checks.filter(fails);
	if (failing.length === 0) return reason ?? String(seq);
	return failing
		.map(({ subject, relation, expected, received, error }) =>
			[subject, relation, expected, received, error ?? ''].join('\0')
		)
		.join('\n');
}
