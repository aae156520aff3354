/** A version of SOAP. */
export type SoapVersion = '1.1' | '1.2';
