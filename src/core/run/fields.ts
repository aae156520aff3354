import { HeronError } from '../errors.ts';
import type { HeaderList } from '../model/reply.ts';
import { joined, latin1, utf8, type Evaluator, type Marks, type Segment } from '../values/index.ts';
import type { HeaderOrigin } from './ports.ts';

/** The header fields of a request while it is put together, in the order in which they will be sent. */
export class Fields {
	readonly list: HeaderList = [];
	/** Who says so, for each field. */
	readonly origins: HeaderOrigin[] = [];
	/** Each field in pieces, where these are asked for. */
	readonly pieces: { name: string; segments: Segment[] }[] = [];
	readonly #names = new Set<string>();
	readonly #evaluator: Evaluator;
	readonly #marks: Marks | undefined;

	/** @param marks of the values that are filled in, when pieces are asked for */
	constructor(evaluator: Evaluator, marks: Marks | undefined) {
		this.#evaluator = evaluator;
		this.#marks = marks;
	}

	/** Whether there is a field of this name. @param name in small letters */
	has(name: string): boolean {
		return this.#names.has(name);
	}

	/** @param written the value is octets already @throws HeronError value.header */
	add(name: string, value: string, origin: HeaderOrigin, written = false): void {
		const bare = this.#evaluator.bare(value);
		const plain = headerText(name, bare, written);
		this.list.push([name, plain]);
		this.origins.push(origin);
		this.#names.add(name.toLowerCase());
		if (!this.#marks) return;
		const octets = (one: Segment) => (written || isAscii(bare) ? one : { ...one, text: latin1(utf8(one.text)) });
		const segments = this.#marks.take(value.trim()).map(octets);
		if (joined(segments) === plain) this.pieces.push({ name, segments });
	}
}

/** RFC 9110 section 5.5: no control characters; what is not ASCII goes out as UTF-8 octets. */
function headerText(name: string, value: string, written: boolean): string {
	// eslint-disable-next-line no-control-regex
	if (/[\0-\x08\x0a-\x1f\x7f]/.test(value)) throw new HeronError('value.header', { where: 'the header', name });
	if (!/^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/.test(name))
		throw new HeronError('value.header', { where: 'the name of header', name });
	return written ? value.trim() : octetsOf(value.trim());
}

/** A text as octets, one a character (RFC 9110 section 5.5). */
export const octetsOf = (text: string): string => (isAscii(text) ? text : latin1(utf8(text)));

// eslint-disable-next-line no-control-regex
const isAscii = (text: string): boolean => !/[^\x00-\x7f]/.test(text);
