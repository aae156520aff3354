import { HeronError, textOf } from '../errors.ts';
import { didYouMean } from '../messages.ts';
import { memoizeByContent } from '../model/kept.ts';
import { decodeText, namedCharset } from '../values/index.ts';
import { modelOf, type SoapModel } from './model.ts';
import { offersService, readDefinition, type Definition, type SoapOperation } from './wsdl/index.ts';

/** An operation with the definition that it is from. */
export interface FoundOperation {
	definition: Definition;
	operation: SoapOperation;
}

/** The definitions of a project, each read when it is first asked for. */
export interface WsdlRegistry {
	/** Paths of the WSDL files. */
	files: string[];
	/** @throws HeronError definition.wrong, file.missing */
	definition(file: string): Definition;
	/** All that can be read, and why the others cannot. */
	all(): { file: string; definition?: Definition; error?: HeronError }[];
	/**
	 * @param key `Service.Operation`, or the operation alone where only one is called so
	 * @param version empty for the first that there is
	 * @throws HeronError definition.operation
	 */
	find(key: string, version?: string, file?: string): FoundOperation;
	/** Definitions that know an operation by this name, in the order in which they are looked through. */
	knowing(key: string, version?: string): Definition[];
	model(found: FoundOperation): SoapModel;
}

const readKept = memoizeByContent(readDefinition);

const decoded = new WeakMap<Uint8Array, string>();
/** The text of a file, in the charset that it names. */
export function xmlFileText(bytes: Uint8Array): string {
	let text = decoded.get(bytes);
	if (text === undefined) decoded.set(bytes, (text = decodeText(bytes, namedCharset(bytes)).text));
	return text;
}

type Opened = Definition | HeronError;
const isRead = (one: Opened): one is Definition => !(one instanceof HeronError);

class Wsdls implements WsdlRegistry {
	readonly files: string[];
	readonly #readText: (path: string) => string | undefined;
	readonly #read = new Map<string, Opened>();
	readonly #models = new WeakMap<SoapOperation, SoapModel>();

	constructor(paths: Iterable<string>, readFile: (path: string) => Uint8Array | undefined) {
		this.files = [...paths].filter((path) => /^definitions\/.*\.wsdl$/i.test(path)).sort();
		this.#readText = (path) => {
			const bytes = path.startsWith('definitions/') ? readFile(path) : undefined;
			return bytes && xmlFileText(bytes);
		};
	}

	#open(file: string): Opened {
		let made = this.#read.get(file);
		if (made) return made;
		try {
			made = readKept(file, this.#readText);
		} catch (error) {
			made =
				error instanceof HeronError
					? error
					: new HeronError('definition.wrong', { file, detail: textOf(error) }, { cause: error });
		}
		this.#read.set(file, made);
		return made;
	}

	definition(file: string): Definition {
		const found = this.#open(file);
		if (found instanceof HeronError) throw found;
		return found;
	}

	all(): ReturnType<WsdlRegistry['all']> {
		const all = this.files.map((file) => ({ file, found: this.#open(file) }));
		const readBy = (file: string) =>
			all.some((other) => other.file !== file && isRead(other.found) && other.found.files.has(file));
		return all.flatMap(({ file, found }): ReturnType<WsdlRegistry['all']> => {
			if (!isRead(found)) return [{ file, error: found }];
			// a piece of another one offers nothing by itself
			return readBy(file) && !offersService(found.files.get(file)!) ? [] : [{ file, definition: found }];
		});
	}

	find(key: string, version = '', file = ''): FoundOperation {
		const files = file ? [file.startsWith('definitions/') ? file : `definitions/${file}`] : this.files;
		const from = files.map((one) => this.#open(one));
		const known = from
			.filter(isRead)
			.flatMap((definition) => definition.operations.map((operation) => ({ definition, operation })));
		const named = known.filter(({ operation }) => operation.key === key || operation.name === key);
		const exact = named.filter(({ operation }) => operation.key === key);
		const of = exact.length > 0 ? exact : named;
		const found = of.find(({ operation }) => !version || operation.version === version);
		if (found) return found;
		const broken = from.find((one): one is HeronError => !isRead(one));
		if (of.length === 0 && broken) throw broken;
		const name = of.length > 0 ? `${key} of SOAP ${version}` : key;
		const hint =
			of.length > 0
				? `; there is one of SOAP ${of[0]!.operation.version}`
				: didYouMean(key, [...new Set(known.map((one) => one.operation.key))]);
		throw new HeronError('definition.operation', { name, nearest: hint });
	}

	knowing(key: string, version = ''): Definition[] {
		const fits = (one: SoapOperation) => !version || one.version === version;
		const all = this.files.map((file) => this.#open(file)).filter(isRead);
		const by = (named: (one: SoapOperation) => boolean) =>
			all.filter(({ operations }) => operations.some((one) => named(one) && fits(one)));
		const exact = by((one) => one.key === key);
		return exact.length > 0 ? exact : by((one) => one.name === key);
	}

	model(found: FoundOperation): SoapModel {
		const kept = this.#models.get(found.operation);
		if (kept) return kept;
		const made = modelOf(found.definition, found.operation);
		this.#models.set(found.operation, made);
		return made;
	}
}

/** @param readFile the bytes of a file of the project */
export const createWsdlRegistry = (
	paths: Iterable<string>,
	readFile: (path: string) => Uint8Array | undefined
): WsdlRegistry => new Wsdls(paths, readFile);
