import type { Json, JsonObject } from '../model/json.ts';
import type { SoapVersion } from './version.ts';

/** SOAP 1.1 section 3, SOAP 1.2 part 1 section 5. */
export const ENVELOPE: Record<SoapVersion, string> = {
	'1.1': 'http://schemas.xmlsoap.org/soap/envelope/',
	'1.2': 'http://www.w3.org/2003/05/soap-envelope'
};
/** The namespace of `xsi:type` and `xsi:nil`. */
export const XSI = 'http://www.w3.org/2001/XMLSchema-instance';
/** The namespace of the prefix `xml`. */
export const XML_NAMESPACE = 'http://www.w3.org/XML/1998/namespace';

/** Values of a message: what its body holds, and entries of its header by name. */
export interface SoapValues {
	/** The value of the body's one element; an object by name when there are several. */
	values: Json;
	headers?: JsonObject;
}

/** What is wrong with a value of a form. */
export interface ValueProblem {
	/** Keys and indexes from the values' root. */
	path: (string | number)[];
	message: string;
	/** It cannot be written at all: nothing of that name is known. */
	unknown?: true;
}

/** An envelope, and what of its values is wrong. */
export interface WrittenEnvelope {
	text: string;
	problems: ValueProblem[];
}

/** Keys of values that are not elements. */
export const TEXT_KEY = '#text';
/** The key under which values hold elements that a schema leaves open. */
export const ANY_KEY = '#any';
/** A list of objects, one for each pass of a group that repeats, where the order across names matters. */
export const EACH_KEY = '#each';
/** The key under which values name the type that stands in (`xsi:type`). */
export const TYPE_KEY = '@xsi:type';
