/** A part of a multipart form as it was sent. */
export interface SentPart {
	name: string;
	value: string;
	/** The value is the path of a file. */
	file?: boolean;
	type?: string;
	filename?: string;
}

/** A call as a command line, a recording or a log has it. */
export interface SentCall {
	method: string;
	/** A whole address. */
	url: string;
	headers: [name: string, value: string][];
	/** `text` as it is on the wire, a file's path, or parts. */
	body?: { text: string } | { file: string } | { parts: SentPart[] };
	/** User and password of Basic or Digest. */
	user?: { name: string; password: string; kind: 'basic' | 'digest' };
	/** Milliseconds for the whole. */
	timeout?: number;
	/** A few words about what it is, where they are known. */
	title?: string;
	/** What could not be carried over, in words. */
	notes: string[];
}
