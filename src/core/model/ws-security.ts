// Web Services Security: SOAP Message Security 1.1; XML Signature
/** What the names of WS-Security begin with. */
export const WSS_BASE = 'http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss';
/** The namespace of the Security header. */
export const WSSE = `${WSS_BASE}-wssecurity-secext-1.0.xsd`;
/** The namespace of timestamps and ids. */
export const WSU = `${WSS_BASE}-wssecurity-utility-1.0.xsd`;
/** The namespace of XML Signature. */
export const DS = 'http://www.w3.org/2000/09/xmldsig#';

/** Parts of a message that a signature may cover. */
export const SIGNED = ['body', 'timestamp', 'token'] as const;
/** Parts that a credential can sign. */
export const SIGNABLE: readonly string[] = [...SIGNED, 'addressing'];
