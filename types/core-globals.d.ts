// The few globals that every host of the core has: browsers, workers and Node. Nothing else compiles there.
declare class TextEncoder {
	encode(text?: string): Uint8Array<ArrayBuffer>;
}
declare class TextDecoder {
	constructor(label?: string, options?: { fatal?: boolean; ignoreBOM?: boolean });
	readonly encoding: string;
	decode(bytes?: Uint8Array, options?: { stream?: boolean }): string;
}
declare class URL {
	constructor(url: string, base?: string);
	static canParse(url: string, base?: string): boolean;
	href: string;
	protocol: string;
	host: string;
	hostname: string;
	port: string;
	pathname: string;
	search: string;
	hash: string;
	username: string;
	password: string;
	readonly origin: string;
}
interface AbortSignal {
	readonly aborted: boolean;
	readonly reason: unknown;
	addEventListener(type: 'abort', listener: () => void, options?: { once?: boolean }): void;
	removeEventListener(type: 'abort', listener: () => void): void;
}
declare function atob(text: string): string;
declare function btoa(text: string): string;
interface String {
	toWellFormed(): string;
}
declare class URLSearchParams {
	constructor(init?: string | Record<string, string> | string[][]);
	get(name: string): string | null;
	getAll(name: string): string[];
	has(name: string): boolean;
	set(name: string, value: string): void;
	append(name: string, value: string): void;
	delete(name: string): void;
	toString(): string;
	[Symbol.iterator](): IterableIterator<[string, string]>;
}
declare class Headers {
	set(name: string, value: string): void;
}
declare class Response {
	constructor(body?: string | null, init?: { status?: number; headers?: Record<string, string> });
}
