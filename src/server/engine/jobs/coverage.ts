import { briefly, createMadeCollector, missingStep as stepFor, plannedCoverage } from '#core/coverage/index.ts';
import { type Handler, workspaceNow } from './context.ts';

/** What is no value of anybody's: kinds of points. */
const WORDS = ['kind'];

/** What the steps of the project touch of its definitions. */
export const coverage: Handler<'coverage'> = ({ order: { environment, made } }, redactor) => {
	const workspace = workspaceNow();
	if (!made) return Promise.resolve(redactor.record(plannedCoverage(workspace, environment), WORDS));
	const collector = createMadeCollector(workspace);
	for (const result of made) collector.take(result);
	return Promise.resolve(redactor.record(collector.result(), WORDS));
};

/** The definitions of the project, and who calls what of them. */
export const operations: Handler<'operations'> = ({ order: { environment } }, redactor) =>
	Promise.resolve(redactor.record(briefly(plannedCoverage(workspaceNow(), environment))));

/** Steps that would touch what nobody touches, one for each point. */
export const missingSteps: Handler<'missingSteps'> = ({ order: { file, operation, points } }) =>
	Promise.resolve(points.map((point) => stepFor(workspaceNow(), file, operation, point) ?? null));
