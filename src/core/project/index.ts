export { isProjectFile } from '../documents/kinds.ts';
export { documentProblems, documentWarnings, loadDocument, type LoadedDocument } from './document.ts';
export { addressOf } from './address.ts';
export { baseOf, callPlaceOf, operationOfStep } from './operations.ts';
export type { Workspace } from './shape.ts';
export { createWorkspace, loadProject, type LoadedProject } from './workspace.ts';
export { namesUsed } from './used.ts';
export { webhooksFor } from './webhooks.ts';
