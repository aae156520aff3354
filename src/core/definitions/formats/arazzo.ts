import { looksLikeArazzo, planWorkflows, sourcesNamedIn } from '../../arazzo/index.ts';
import { decodeText } from '../../values/index.ts';
import type { DefinitionFormat } from './kind.ts';

/** Arazzo: workflows over other definitions, which are its sources. */
export const arazzo: DefinitionFormat = {
	key: 'arazzo',
	fits: ({ bytes }) => looksLikeArazzo(decodeText(bytes).text),
	names: (text) => (looksLikeArazzo(text) ? sourcesNamedIn(text) : undefined),
	alone: true,
	plan: (given, [document]) => [planWorkflows(given, document!)]
};
