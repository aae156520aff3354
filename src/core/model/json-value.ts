/** What a document, an event or a wire message may hold. An integer beyond 2^53 is a bigint, so that no digit is lost. */
export type Json = null | boolean | number | bigint | string | Json[] | { [key: string]: Json };
/** An object of JSON (RFC 8259 section 4). */
export type JsonObject = { [key: string]: Json };
