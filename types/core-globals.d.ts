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
