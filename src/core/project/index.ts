export { isProjectFile } from '../model/kinds.ts';
export { documentProblems, documentWarnings, loadDocument, type LoadedDocument } from './document.ts';
export { addressOf } from './address.ts';
export { baseOf, callPlaceOf, operationOfStep } from './operations.ts';
export { createWorkspace, loadProject, type LoadedProject, type Workspace } from './workspace.ts';
export { webhooksFor } from './webhooks.ts';
