import { fails } from '../checks/index.ts';
import { writeJson, type Json } from '../model/json.ts';
import { standingOf, type StepResult } from '../run/index.ts';
import type { PlaceInFile, ReportKind, ReportOptions } from './kind.ts';
import { placeOfResult, quarantineWords, sentenceOfResult } from './sentence.ts';

const SCHEMA = 'https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json';
/** Viewers of such results take so many. */
const MOST_RESULTS = 5000;

/** What is wrong, once for each check that does not hold, with its place in the project's files. */
export function faultsWithPlaces(
	result: StepResult,
	placeOf: ReportOptions['placeOf']
): { rule: string; message: string; place?: PlaceInFile }[] {
	const at = (check?: number) => {
		const place = placeOf?.(result, check);
		return place ? { place } : {};
	};
	const where = placeOfResult(result);
	if (result.outcome === 'error')
		return [
			{
				rule: result.error?.code ?? 'error',
				message: `${where}: ${result.error?.message ?? 'could not be carried out'}`,
				...at()
			}
		];
	const failing = result.checks.filter(fails);
	if (failing.length === 0) return [{ rule: 'failed', message: `${where}: ${result.reason ?? 'it failed'}`, ...at() }];
	return failing.map((check) => ({
		rule: `check.${check.subject.split(' ')[0] ?? 'check'}`,
		message: `${where}: ${sentenceOfResult(check)}`,
		...at(check.index >= 0 ? check.index : undefined)
	}));
}

/** SARIF 2.1.0 (OASIS): what did not pass, at file and line of the check that says so. */
export const sarif: ReportKind = {
	key: 'sarif',
	ending: 'sarif',
	label: 'SARIF',
	doc: 'SARIF 2.1.0: what did not pass, at file and line of the check, for viewers of code.',
	open({ version, placeOf }) {
		const results: Json[] = [];
		const rules = new Set<string>();
		return {
			event(event) {
				if (event.type !== 'step') return '';
				const { result } = event;
				const standing = standingOf(result);
				if (standing !== 'failed' && standing !== 'error' && standing !== 'quarantined') return '';
				for (const { rule, message, place } of faultsWithPlaces(result, placeOf)) {
					if (results.length >= MOST_RESULTS) break;
					rules.add(rule);
					results.push({
						ruleId: rule,
						level: 'error',
						message: { text: message.toWellFormed() },
						...(place
							? {
									locations: [
										{
											physicalLocation: {
												artifactLocation: { uri: place.file.split('/').map(encodeURIComponent).join('/') },
												region: { startLine: place.line, startColumn: place.column }
											}
										}
									]
								}
							: {}),
						// the same fault of the next run is the same result (section 3.27.17)
						partialFingerprints: { 'place/v1': `${placeOfResult(result)} ${rule}` },
						...(standing === 'quarantined'
							? { suppressions: [{ kind: 'external', justification: quarantineWords(result) }] }
							: {})
					});
				}
				return '';
			},
			end(state, exitCode) {
				const log = {
					$schema: SCHEMA,
					version: '2.1.0',
					runs: [
						{
							tool: {
								driver: {
									name: 'Loyal Heron',
									version,
									rules: [...rules].map((id) => ({ id, shortDescription: { text: id.replace('check.', 'check of ') } }))
								}
							},
							invocations: [{ executionSuccessful: !state.stopped, exitCode }],
							columnKind: 'utf16CodeUnits',
							results
						}
					]
				};
				return `${writeJson(log as Json, 1)}\n`;
			}
		};
	}
};
