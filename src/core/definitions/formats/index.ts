import { arazzo } from './arazzo.ts';
import type { DefinitionFormat } from './kind.ts';
import { openapi } from './openapi.ts';
import { wsdl } from './wsdl.ts';

export type { DefinitionFormat } from './kind.ts';

/** All formats of definitions, in the order in which a file is tried; the last one is what nothing else is. */
export const definitionFormats: readonly DefinitionFormat[] = [arazzo, openapi, wsdl];
