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

/** @param readFile the bytes of a file of the project */
export function createWsdlRegistry(
	paths: Iterable<string>,
	readFile: (path: string) => Uint8Array | undefined
): WsdlRegistry {
	const readText = (path: string): string | undefined => {
		const bytes = path.startsWith('definitions/') ? readFile(path) : undefined;
		return bytes && xmlFileText(bytes);
	};
	const files = [...paths].filter((path) => /^definitions\/.*\.wsdl$/i.test(path)).sort();
	const read = new Map<string, Definition | HeronError>();
	const models = new WeakMap<SoapOperation, SoapModel>();
	const open = (file: string): Definition | HeronError => {
		const kept = read.get(file);
		if (kept) return kept;
		let made: Definition | HeronError;
		try {
			made = readKept(file, readText);
		} catch (error) {
			made =
				error instanceof HeronError
					? error
					: new HeronError('definition.wrong', { file, detail: textOf(error) }, { cause: error });
		}
		read.set(file, made);
		return made;
	};
	const wsdls: WsdlRegistry = {
		files,
		definition(file) {
			const found = open(file);
			if (found instanceof HeronError) throw found;
			return found;
		},
		all() {
			const found = files.map((file) => ({ file, found: open(file) }));
			const readBy = (file: string) =>
				found.some(
					(other) => other.file !== file && !(other.found instanceof HeronError) && other.found.files.has(file)
				);
			return found.flatMap(({ file, found: one }): ReturnType<WsdlRegistry['all']> => {
				if (one instanceof HeronError) return [{ file, error: one }];
				// a piece of another one offers nothing by itself
				return readBy(file) && !offersService(one.files.get(file)!) ? [] : [{ file, definition: one }];
			});
		},
		find(key, version = '', file = '') {
			const from = (file ? [file.startsWith('definitions/') ? file : `definitions/${file}`] : files).map(open);
			const definitions = from.filter((one): one is Definition => !(one instanceof HeronError));
			const known = definitions.flatMap((definition) =>
				definition.operations.map((operation) => ({ definition, operation }))
			);
			const named = known.filter(({ operation }) => operation.key === key || operation.name === key);
			const exact = named.filter(({ operation }) => operation.key === key);
			const of = exact.length > 0 ? exact : named;
			const found = of.find(({ operation }) => !version || operation.version === version);
			if (found) return found;
			const broken = from.find((one): one is HeronError => one instanceof HeronError);
			if (of.length === 0 && broken) throw broken;
			const name = of.length > 0 ? `${key} of SOAP ${version}` : key;
			const hint =
				of.length > 0
					? `; there is one of SOAP ${of[0]!.operation.version}`
					: didYouMean(key, [...new Set(known.map((one) => one.operation.key))]);
			throw new HeronError('definition.operation', { name, nearest: hint });
		},
		knowing(key, version = '') {
			const fits = (one: SoapOperation) => !version || one.version === version;
			const all = files.map(open).filter((one): one is Definition => !(one instanceof HeronError));
			const by = (named: (one: SoapOperation) => boolean) =>
				all.filter(({ operations }) => operations.some((one) => named(one) && fits(one)));
			const exact = by((one) => one.key === key);
			return exact.length > 0 ? exact : by((one) => one.name === key);
		},
		model(found) {
			const kept = models.get(found.operation);
			if (kept) return kept;
			const made = modelOf(found.definition, found.operation);
			models.set(found.operation, made);
			return made;
		}
	};
	return wsdls;
}
