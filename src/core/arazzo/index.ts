export { looksLikeArazzo, planWorkflows, sourcesNamedIn } from './in.ts';
export { WORKFLOWS, workflowFiles } from './out.ts';
