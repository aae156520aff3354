import type { SchemaByItself, SchemaFault } from '../checks/index.ts';
import type { Dataset, DataSpec } from '../datasets/index.ts';
import type { HeaderList } from '../model/reply.ts';
import type { XmlPort } from '../model/xml.ts';
import type { FunctionPorts } from '../values/index.ts';

/** A call that goes out: of what is passed on, and of what is called back. */
export interface Outgoing {
	method: string;
	url: string;
	headers: HeaderList;
	body: Uint8Array;
}

/** What came back of a call that went out. */
export interface Came {
	status: number;
	headers: HeaderList;
	body: Uint8Array;
}

/** An XML signature, and what it is held against. */
export interface SignatureGiven {
	envelope: string;
	/** The Signature element with the namespaces that it uses. */
	signature: string;
	/** The certificate that came with it, as Base64; empty where none did. */
	certificate: string;
	/** PEM of the certificate that is trusted, or of one that signed it; empty for any. */
	trusted: string;
}

/** What a signature that holds says. */
export interface SignatureFound {
	/** Canonical texts of the elements that it covers. */
	signed: string[];
	certificate: { subject: string; issuer: string; fingerprint: string };
}

/** All that a stand-in uses of the world outside. */
export interface StandInPorts extends FunctionPorts {
	xml: XmlPort;
	/** @throws HeronError schema.wrong, file.missing */
	validateJson(value: unknown, schema: string | SchemaByItself): Promise<SchemaFault[]>;
	/** @throws HeronError dataset.* */
	dataset(spec: DataSpec): Promise<Dataset>;
	/** Holds the signature of an envelope against its certificate. */
	verifySignature(given: SignatureGiven): Promise<SignatureFound | { code: string; reason: string }>;
	/** Sends on what was asked. @throws HeronError send.* */
	send(outgoing: Outgoing): Promise<Came>;
}
