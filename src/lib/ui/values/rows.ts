import type { Matrix } from './matrix.svelte.ts';
import type { Secret } from './secrets.svelte.ts';

/** What the page of values shows, top to bottom. */
export type Row =
	| { kind: 'variable'; key: string; name: string }
	| { kind: 'details'; key: string; name: string; root: 'env' | 'secret' }
	| { kind: 'secret'; key: string; secret: Secret }
	| { kind: 'end'; key: string };

/** @param opened the variable or secret whose details are shown, as `env.NAME` or `secret.NAME` */
export function rowsOf(matrix: Matrix, secrets: readonly Secret[], opened: string): Row[] {
	const out: Row[] = [];
	for (const name of matrix.rows) {
		out.push({ kind: 'variable', key: `v ${name}`, name });
		if (opened === `env.${name}`) out.push({ kind: 'details', key: `d ${name}`, name, root: 'env' });
	}
	const word = matrix.search.toLowerCase();
	if (matrix.only === 'all')
		for (const secret of secrets) {
			const { name } = secret;
			if (!name.toLowerCase().includes(word)) continue;
			out.push({ kind: 'secret', key: `s ${name}`, secret });
			if (opened === `secret.${name}`) out.push({ kind: 'details', key: `ds ${name}`, name, root: 'secret' });
		}
	out.push({ kind: 'end', key: 'end' });
	return out;
}
