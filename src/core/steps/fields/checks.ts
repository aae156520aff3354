import { checkKinds, relationNames, relationOf, relationsProblem, type CheckKind } from '../../checks/index.ts';
import { didYouMean } from '../../messages.ts';
import { isObject, type Json } from '../../model/json.ts';
import type { StepField } from '../kind.ts';

type Report = Parameters<StepField['check']>[1];

/** @param kinds those that may stand there */
export function checkCheck(value: unknown, at: number, report: Report, kinds: readonly CheckKind[] = checkKinds): void {
	const checkKind = (key: string) => kinds.find((kind) => kind.key === key);
	if (!isObject(value)) return report([at], 'a check is wanted, such as status: 200');
	const subjects = Object.keys(value).filter((key) => checkKind(key));
	const subjectKey = Object.keys(value).find((key) => checkKind(key));
	const settings = (subjectKey ? checkKind(subjectKey)!.settings : undefined) ?? {};
	checkOff(value.off, (path, message) => report([at, 'off', ...path], message));
	if (value.should !== undefined && typeof value.should !== 'boolean')
		report([at, 'should'], 'true or false is wanted');
	for (const [name, { problem }] of Object.entries(settings)) {
		const wrong = value[name] === undefined ? undefined : problem(value[name]);
		if (wrong) report([at, name], wrong);
	}
	const words = kinds.map((k) => k.key);
	const relations = Object.keys(value).filter((key) => relationOf(key));
	const unknown = Object.keys(value).filter(
		(key) => !checkKind(key) && !relationOf(key) && key !== 'off' && key !== 'should' && !Object.hasOwn(settings, key)
	);
	// a word that is wrong in the place of the one that is wanted is one problem
	const inPlaceOf = (wanted: string, known: readonly string[]): void => {
		for (const key of unknown) report([at, key], `"${key}" is ${wanted}${didYouMean(key, known)}`);
	};
	if (subjects.length === 0 && unknown.length > 0) return inPlaceOf('nothing that a check looks at', words);
	const kind = subjects.length === 1 ? checkKind(subjects[0]!)! : undefined;
	if (kind?.form === 'selector' && relations.length === 0 && unknown.length > 0)
		inPlaceOf('no relation', relationNames);
	else
		for (const key of unknown) {
			const known = [...words, ...relationNames, 'off', 'should', ...Object.keys(settings)];
			report([at, key], `unknown key "${key}"${didYouMean(key, known)}`);
		}
	if (!kind) return report([at], `a check looks at exactly one of ${words.join(', ')}`);
	const subject = kind.key;
	const problem = kind.problem(value[subject]);
	if (problem) report([at, subject], problem);
	if (kind.form !== 'selector') {
		for (const name of relations) report([at, name], `"${name}" does not fit a check of ${subject}`);
		return;
	}
	if (relations.length === 0 && unknown.length === 0) {
		report([at], `the check says where to look but not what must hold: ${relationNames.slice(0, 6).join(', ')} …`);
	}
	for (const name of relations) {
		const wrong = relationOf(name)!.problem?.(value[name], relationsProblem);
		if (wrong) report([at, name], wrong);
	}
}

const DAY = /^\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])$/;

/** `off: true`, or why and until when. */
function checkOff(value: unknown, report: Report): void {
	if (value === undefined || typeof value === 'boolean') return;
	if (!isObject(value)) return report([], 'true or false is wanted, or { because: a reason, until: 2027-05-31 }');
	for (const key of Object.keys(value))
		if (key !== 'because' && key !== 'until') report([key], `unknown key "${key}"; known are because, until`);
	if (typeof value.because !== 'string' || !value.because.trim()) report(['because'], 'a reason is wanted');
	if (value.until !== undefined && !DAY.test(String(value.until)))
		report(['until'], 'a day is wanted, such as 2027-05-31');
}

const relationSchemas = (): Record<string, Json> =>
	Object.fromEntries(relationNames.map((name) => [name, relationOf(name)!.schema]));

/** JSON Schema of a list of checks. */
export const checkSchema = (kinds: readonly CheckKind[] = checkKinds): Json => ({
	type: 'array',
	items: {
		type: 'object',
		properties: {
			...Object.fromEntries(kinds.map((kind) => [kind.key, { description: kind.doc }])),
			...relationSchemas(),
			...Object.fromEntries(
				kinds.flatMap(({ settings = {} }) =>
					Object.entries(settings).map(([name, { doc, schema }]) => [name, { description: doc, ...(schema as object) }])
				)
			),
			should: { type: 'boolean', description: 'It is reported when it does not hold, and fails nothing.' },
			off: {
				description: 'Left out; with a reason, and a last day.',
				anyOf: [
					{ type: 'boolean' },
					{
						type: 'object',
						properties: { because: { type: 'string' }, until: { type: 'string', pattern: DAY.source } },
						required: ['because'],
						additionalProperties: false
					}
				]
			}
		},
		additionalProperties: false,
		oneOf: kinds.map((kind) => ({ required: [kind.key] }))
	}
});

/** A list of checks. @param kinds those that may stand there */
export const checks = (name: string, doc: string, kinds: readonly CheckKind[] = checkKinds): StepField => ({
	...{ name, doc },
	schema: checkSchema(kinds),
	check(value, report) {
		if (!Array.isArray(value)) return report([], 'a list of checks is wanted');
		value.forEach((item, index) => checkCheck(item, index, report, kinds));
	}
});
