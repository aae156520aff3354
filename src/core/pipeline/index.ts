import { azure } from './azure.ts';
import { bitbucket } from './bitbucket.ts';
import { declarative } from './declarative.ts';
import { github } from './github.ts';
import { gitlab } from './gitlab.ts';
import type { PipelineKind } from './kind.ts';
import { shell } from './shell.ts';

export { word } from './commands.ts';
export { REPORT_FILES, type PipelineChoice, type PipelineKind, type ReportName } from './kind.ts';

/** The forms in which a pipeline is written. */
export const pipelineKinds: readonly PipelineKind[] = [github, gitlab, azure, bitbucket, declarative, shell];
