// RFC 9110 sections 9.2.1 and 9.2.2; QUERY by its own draft
const SAFE = new Set(['GET', 'HEAD', 'OPTIONS', 'TRACE', 'QUERY']);

/** What a call may do by its method: read only; change, the same however often; or anything. */
export const effectOf = (method: string): 'safe' | 'idempotent' | 'unsafe' =>
	SAFE.has(method) ? 'safe' : method === 'PUT' || method === 'DELETE' ? 'idempotent' : 'unsafe';
