// The libraries that sign: a chunk of its own, loaded when the first credential signs. Most runs never do.
export { httpbis } from 'http-message-signatures';
export { CompactSign } from 'jose';
