import { isObject, type Json } from './json.ts';
import { PREFIX } from './prefix.ts';
import { mapOf } from './shape.ts';
import type { Namespaces } from './xml.ts';

/** The shape of namespaces by prefix. */
export const namespaces = mapOf('Namespaces of XML by the prefix that XPaths use for them.', PREFIX);

/** Namespaces by prefix; none where they are not well-formed. */
export const parseNamespaces = (value: Json | undefined): Namespaces =>
	isObject(value) ? Object.fromEntries(Object.entries(value).map(([prefix, uri]) => [prefix, String(uri)])) : {};
