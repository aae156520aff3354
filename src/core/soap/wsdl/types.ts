import { lookUp } from '../../model/lookup.ts';
import type { ElementDeclaration, SchemaSet } from '../schema/index.ts';
import type { XmlElement } from '../tree.ts';
import type { SoapVersion } from '../version.ts';

export type { SoapVersion } from '../version.ts';

/** The namespace of WSDL 1.1. */
export const WSDL = 'http://schemas.xmlsoap.org/wsdl/';
/** The namespace of its MIME binding (section 5). */
export const MIME = 'http://schemas.xmlsoap.org/wsdl/mime/';
const SOAP_BINDINGS: Readonly<Record<string, SoapVersion>> = {
	'http://schemas.xmlsoap.org/wsdl/soap/': '1.1',
	'http://schemas.xmlsoap.org/wsdl/soap12/': '1.2'
};
/** The version of SOAP that an element of a binding speaks of; undefined where it is none of SOAP. */
export const soapVersionOf = ({ namespace }: Pick<XmlElement, 'namespace'>): SoapVersion | undefined =>
	lookUp(SOAP_BINDINGS, namespace);

/** One file of WSDL. */
export interface WsdlDocument {
	path: string;
	root: XmlElement;
	/** What it defines. */
	namespace: string;
}

/** A message as it stands in an envelope. */
export interface SoapMessage {
	/** The children of the body. */
	body: ElementDeclaration[];
	/** The entries of the header that the definition knows. */
	headers: ElementDeclaration[];
	/** Parts that travel beside the envelope (SOAP Messages with Attachments). */
	attachments: { part: string; types: string[] }[];
}

/** An operation that is called with an envelope. */
export interface SoapOperation {
	/** `Service.Operation`, by which steps speak of it. */
	key: string;
	name: string;
	service: string;
	port: string;
	version: SoapVersion;
	/** As the definition gives it. */
	address: string;
	action: string;
	/** What WS-Addressing calls the message that is sent (WS-Addressing 1.0 Metadata section 4.4). */
	addressingAction: string;
	/** What it calls the message that is answered (section 4.4.2). */
	answerAction: string;
	style: 'document' | 'rpc';
	use: 'literal' | 'encoded';
	/** The namespace of an RPC call. */
	namespace: string;
	input: SoapMessage;
	/** Undefined when there is no answer. */
	output: SoapMessage | undefined;
	faults: ElementDeclaration[];
	doc: string;
	/** Which security and addressing its policies ask for. */
	wants: string[];
}

/** An operation that is called without an envelope (WSDL 1.1 section 4). */
export interface PlainOperation {
	/** `Service.Operation`. */
	key: string;
	name: string;
	service: string;
	method: string;
	/** The address of the port, as the definition gives it. */
	address: string;
	/** Behind the address; `{part}` where a part of the message fills the path. */
	location: string;
	/** How the parts travel; `other` for a body of another kind. */
	how: 'query' | 'path' | 'form' | 'other';
	parts: ElementDeclaration[];
	doc: string;
}

/** Something in a definition that cannot be used; the rest can. */
export interface DefinitionProblem {
	file: string;
	line: number;
	message: string;
}

/** A WSDL with all that it imports. */
export interface Definition {
	/** Its path in the project. */
	file: string;
	doc: string;
	operations: SoapOperation[];
	/** Those that are called without an envelope. */
	plain: PlainOperation[];
	schemas: SchemaSet;
	/** All files that were read, with their texts. */
	files: Map<string, string>;
	/** Addresses of imports that are not there. */
	missing: string[];
	problems: DefinitionProblem[];
}
