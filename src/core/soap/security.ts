// Web Services Security: SOAP Message Security 1.1; XML Signature
export const WSS_BASE = 'http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss';
export const WSSE = `${WSS_BASE}-wssecurity-secext-1.0.xsd`;
export const WSU = `${WSS_BASE}-wssecurity-utility-1.0.xsd`;
export const DS = 'http://www.w3.org/2000/09/xmldsig#';

/** Parts of a message that a signature may cover. */
export const SIGNED = ['body', 'timestamp', 'token'] as const;
/** Parts that a credential can sign. */
export const SIGNABLE: readonly string[] = [...SIGNED, 'addressing'];
