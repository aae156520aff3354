import type { JsonObject } from './json.ts';

/** Media types whose content is text, so that it may stand in JSON as it is. */
const TEXTUAL = /^text\/|[/+](json|xml|yaml)\b/i;

/**
 * Whether a schema means bytes: `format: binary` (OpenAPI 3.0), or a media type for what is no text and is not encoded as one
 * (OpenAPI 3.1 section 4.8.14.3, JSON Schema 2020-12 Validation section 8).
 */
export function isBinary({ format, type, contentMediaType, contentEncoding }: JsonObject): boolean {
	if (format === 'binary') return true;
	if (typeof contentMediaType !== 'string' || typeof contentEncoding === 'string') return false;
	return type === undefined || (type === 'string' && !TEXTUAL.test(contentMediaType));
}
