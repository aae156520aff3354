/** Keys of a body that say more of it than its kind and content. */
const BESIDE = new Set(['type', 'schema']);

/** The key of a body as written that names its kind: `json` of `{ json: …, type: … }`. */
export const bodyKeyOf = (body: object): string | undefined => Object.keys(body).find((key) => !BESIDE.has(key));
