/** Whether a text is a command line of curl, as it is copied from a page or a terminal. */
export const looksLikeCurl = (text: string): boolean => /^\s*(?:[$>]\s+)?curl(?:\.exe)?\s+\S/i.test(text);
/** Whether a text is a request as it stands on the wire (RFC 9112 section 3). */
export const looksLikeMessage = (text: string): boolean =>
	/^\s*[A-Z][A-Z-]*\s+\S+\s+HTTP\/[\d.]+\s*(\r?\n|$)/.test(text);
/** Whether a text is a whole address and nothing else, perhaps with a method before it. */
export const looksLikeAddress = (text: string): boolean => /^\s*(?:[A-Z]+\s+)?https?:\/\/\S+\s*$/i.test(text);
/** Whether a text holds a call that `readCalls` can read. */
export const looksLikeCall = (text: string): boolean =>
	looksLikeCurl(text) || looksLikeMessage(text) || looksLikeAddress(text);
