import { createMadeCollector, missingStep as stepFor, plannedCoverage } from '#core/coverage/index.ts';
import { type Handler, workspaceNow } from './context.ts';

/** What the steps of the project touch of its definitions. */
export const coverage: Handler<'coverage'> = ({ order: { environment, made } }, redactor) => {
	const workspace = workspaceNow();
	if (!made) return Promise.resolve(redactor.deep(plannedCoverage(workspace, environment)));
	const collector = createMadeCollector(workspace);
	for (const result of made) collector.take(result);
	return Promise.resolve(redactor.deep(collector.result()));
};

/** A step that would touch what nobody touches. */
export const missingStep: Handler<'missingStep'> = ({ order: { file, operation, point } }) =>
	Promise.resolve(stepFor(workspaceNow(), file, operation, point) ?? null);
