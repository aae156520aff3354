import type { JsonObject } from '#core/model/json.ts';
import type { StepKind } from '#core/steps/index.ts';
import type { ProjectState } from '../shell/project.svelte.ts';

/** What a new step of a kind begins with. */
export const freshStep = (kind: StepKind, project: ProjectState): JsonObject =>
	kind.fresh({ standIns: project.namesIn('stand-ins') });
