import { lookUp } from '../../model/lookup.ts';
import { writeJson, isObject, type Json } from '../../model/json.ts';
import { ENVELOPE, XML_NAMESPACE, XSI, type ValueProblem } from '../envelope.ts';
import type { ElementModel, SoapModel, TypeModel } from '../model.ts';
import { SOAP_ENCODING, XSD } from '../schema/index.ts';
import { simpleProblem } from '../simple.ts';
import { escapeText } from '../tree.ts';

/** How an envelope is written. */
export interface WriteOptions {
	/** Escapes a text; expressions may be left alone by it. */
	escape?: (text: string) => string;
	/** Whether a text is still to be computed, so that nothing can be said of it. */
	open?: (text: string) => boolean;
	/** What stands for the content of an element that holds bytes as Base64: XOP has them travel beside the envelope. */
	binary?: (base64: string) => string;
	/** What the definition does not know is written all the same, behind what it knows; it is told as well. */
	unknown?: boolean;
}

/** Where in the values something stands. */
export type ValuePath = ValueProblem['path'];

/** Writes an element with its content. */
export type WriteElement = (writing: Writing, one: ElementModel, value: Json, indent: string, path: ValuePath) => void;

const USUAL_PREFIXES: Record<string, string> = {
	[XSI]: 'xsi',
	[XSD]: 'xsd',
	[SOAP_ENCODING]: 'enc',
	[XML_NAMESPACE]: 'xml'
};

/** An envelope while it is written: its lines, the prefixes that they use, and what does not fit. */
export class Writing {
	readonly lines: string[] = [];
	readonly problems: ValueProblem[] = [];
	/** By namespace, in the order in which they were needed. */
	readonly prefixes: Map<string, string>;
	readonly types: SoapModel['types'];
	/** The style of SOAP section 5: types stand beside values. */
	readonly encoded: boolean;
	readonly options: WriteOptions;
	/** Given, as content holds elements and elements hold content. */
	readonly #element: WriteElement;

	constructor({ operation, types }: SoapModel, options: WriteOptions, element: WriteElement) {
		this.prefixes = new Map([[ENVELOPE[operation.version], 'env']]);
		this.types = types;
		this.encoded = operation.use === 'encoded';
		this.options = options;
		this.#element = element;
	}

	element(one: ElementModel, value: Json, indent: string, path: ValuePath): void {
		this.#element(this, one, value, indent, path);
	}

	report(path: ValuePath, message: string, unknown?: true): void {
		this.problems.push({ path, message, ...(unknown ? { unknown } : {}) });
	}

	prefixOf(namespace: string): string {
		const known = this.prefixes.get(namespace);
		if (known !== undefined) return known;
		const own = [...this.prefixes.values()].filter((one) => /^m\d*$/.test(one)).length;
		const prefix = lookUp(USUAL_PREFIXES, namespace) ?? (own === 0 ? 'm' : `m${own + 1}`);
		this.prefixes.set(namespace, prefix);
		return prefix;
	}

	/** A name with its prefix; none where it is in no namespace. */
	qualified(namespace: string, local: string): string {
		return namespace ? `${this.prefixOf(namespace)}:${local}` : local;
	}

	escape(text: string): string {
		return (this.options.escape ?? escapeText)(text);
	}

	inAttribute(text: string): string {
		return this.escape(text).replace(/"/g, '&quot;').replace(/\n/g, '&#10;');
	}

	/** Whether a text is still to be computed. */
	open(text: string): boolean {
		return this.options.open?.(text) ?? false;
	}

	/** Reports a text that its simple type does not allow. */
	checkText(type: TypeModel | undefined, text: string, path: ValuePath): void {
		const wrong = type?.kind === 'simple' && !this.open(text) ? simpleProblem(type, text) : undefined;
		if (wrong) this.report(path, wrong);
	}
}

/** A value as the text of an element or attribute; a list by blanks. */
export const textOf = (value: Json): string =>
	Array.isArray(value) ? value.map(textOf).join(' ') : isObject(value) ? writeJson(value) : String(value ?? '');
