import { filesReferred, looksLikeOpenapi } from '../../openapi/index.ts';
import { decodeText } from '../../values/index.ts';
import { planDocuments } from '../openapi.ts';
import type { DefinitionFormat } from './kind.ts';

/** OpenAPI; files that it refers to may hold a part alone. */
export const openapi: DefinitionFormat = {
	key: 'openapi',
	fits: ({ bytes }) => looksLikeOpenapi(decodeText(bytes).text),
	names: (text) => (looksLikeOpenapi(text) || !/^\s*</.test(text) ? filesReferred(text) : undefined),
	plan: planDocuments
};
