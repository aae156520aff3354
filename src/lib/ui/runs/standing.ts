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

/** The place of a step on a run's page. */
export const stepHash = (scenario: string, step: string): string => `#${scenario}/${step}`;
