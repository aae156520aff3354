/** Loaded when one speaks TLS: most do not. */
export const standInIdentity = async () => (await import('./certificate.ts')).standInIdentity();
