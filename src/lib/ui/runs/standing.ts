import type { Standing } from '#core/run/index.ts';

/** How a step ended, in words. */
export const STANDING_WORDS: Record<Standing, string> = {
	passed: 'passed',
	failed: 'failed',
	error: 'not carried out',
	skipped: 'skipped',
	unsteady: 'passed on a later attempt',
	quarantined: 'did not pass, in quarantine',
	superseded: 'tried again'
};

/** What a run is called, also of a project that has no title. */
export const runTitle = (title: string): string => title || 'All scenarios';

/** The place of a step on a run's page. */
export const stepHash = (scenario: string, step: string): string => `#${scenario}/${step}`;
/** Which step a place names: `#collection/scenario/step`; a called step has a `/` in its own name. */
export function placeOfHash(hash: string): { scenario: string; step: string } | undefined {
	let text = hash.slice(1);
	try {
		text = decodeURIComponent(text);
	} catch {
		// it is taken as it stands
	}
	const [collection, scenario, ...step] = text.split('/');
	if (!collection || !scenario || step.length === 0) return undefined;
	return { scenario: `${collection}/${scenario}`, step: step.join('/') };
}
