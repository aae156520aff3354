export { looksLikeArazzo, planWorkflows, sourcesNamedIn } from './in.ts';
export { workflowsOf, type MadeWorkflows } from './out.ts';
