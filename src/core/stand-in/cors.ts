import { headerValue, type HeaderList } from '../model/reply.ts';
import type { Asked } from './asked.ts';

/** What allows a page of another origin to read an answer; nothing where it may not. */
export function corsHeaders(origins: readonly string[], { headers }: Pick<Asked, 'headers'>): HeaderList {
	const origin = headerValue(headers, 'origin');
	if (!origin || !(origins.includes('*') || origins.includes(origin))) return [];
	return [
		['Access-Control-Allow-Origin', origin],
		['Access-Control-Allow-Credentials', 'true'],
		['Access-Control-Expose-Headers', '*, Authorization, Link, Location'],
		['Vary', 'Origin']
	];
}

/** Fields of the answer to a question before the call (Fetch section 3.2.2); undefined where a request is none. */
export function preflight(origins: readonly string[], asked: Asked): HeaderList | undefined {
	const method = headerValue(asked.headers, 'access-control-request-method');
	if (asked.method !== 'OPTIONS' || !method) return undefined;
	const allowed = corsHeaders(origins, asked);
	if (allowed.length === 0) return undefined;
	const wanted = headerValue(asked.headers, 'access-control-request-headers');
	return [
		...allowed,
		['Access-Control-Allow-Methods', method],
		...(wanted ? ([['Access-Control-Allow-Headers', wanted]] as HeaderList) : []),
		['Access-Control-Max-Age', '60']
	];
}
