import { isObject, type Json } from '../../model/json.ts';
import type { Findings, LookDeeper } from './findings.ts';
import { decodeName } from './resolve.ts';

const nameOf = (branch: Json): string => {
	if (!isObject(branch)) return '';
	if (typeof branch.$ref === 'string') return decodeName(branch.$ref).replace(/^\d+-/, '');
	return typeof branch.title === 'string' ? branch.title : '';
};

/** Compares the forms of oneOf and anyOf: those with a name by it, others by where they stand. */
export function compareBranches(
	before: Json[],
	after: Json[],
	key: string,
	place: string,
	findings: Findings,
	look: LookDeeper
): void {
	if (before.length === 0 && after.length === 0) return;
	if (before.length === 0) return findings.narrower(key, place, 'must be one of several forms');
	if (after.length === 0) return findings.wider(key, place, 'need not be one of several forms any more');
	const left = new Set(after.map((_, index) => index));
	const pairs: [Json, Json][] = [];
	const alone: Json[] = [];
	before.forEach((branch, index) => {
		const name = nameOf(branch);
		const beside = left.has(index) && !nameOf(after[index]!) ? index : undefined;
		const found = name ? [...left].find((at) => nameOf(after[at]!) === name) : beside;
		if (found === undefined) return void alone.push(branch);
		left.delete(found);
		pairs.push([branch, after[found]!]);
	});
	for (const branch of alone) findings.narrower(key, place, `the form ${nameOf(branch) || 'without a name'} is gone`);
	for (const at of left)
		findings.wider(key, place, `may have the form ${nameOf(after[at]!) || 'without a name'} as well`);
	for (const [x, y] of pairs) look(x, y, place);
}
