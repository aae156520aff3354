import { parseCollection } from '../documents/collection.ts';
import { parseConnection } from '../documents/connection.ts';
import { parseCredential } from '../documents/credential.ts';
import { parseEnvironment } from '../documents/environment.ts';
import type { Json } from '../model/json.ts';
import { parseLocal } from '../documents/local.ts';
import { parseProject } from '../documents/project.ts';
import { parseQuarantine } from '../documents/quarantine.ts';
import { parseStandIn } from '../documents/stand-in.ts';
import { parseSuite } from '../documents/suite.ts';

/** Reads the data of a document once, as long as that very data is there: a save changes one of many. */
function once<T>(parse: (name: string, value: Json) => T): (name: string, value: Json) => T {
	const known = new WeakMap<object, { name: string; made: T }>();
	return (name, value) => {
		if (typeof value !== 'object' || value === null) return parse(name, value);
		const kept = known.get(value);
		if (kept?.name === name) return kept.made;
		const made = parse(name, value);
		known.set(value, { name, made });
		return made;
	};
}

/** `heron.yaml`, parsed once for each value. */
export const projectOf = once((_, value) => parseProject(value));
/** The values of this machine, parsed once for each value. */
export const localOf = once((_, value) => parseLocal(value));
/** The quarantine, parsed once for each value. */
export const quarantineOf = once((_, value) => parseQuarantine(value));
/** A connection, parsed once for each value. */
export const connectionOf = once(parseConnection);
/** A credential, parsed once for each value. */
export const credentialOf = once(parseCredential);
/** An environment, parsed once for each value. */
export const environmentOf = once(parseEnvironment);
/** A collection, parsed once for each value. */
export const collectionOf = once(parseCollection);
/** A suite, parsed once for each value. */
export const suiteOf = once(parseSuite);
/** A stand-in, parsed once for each value. */
export const standInOf = once(parseStandIn);
