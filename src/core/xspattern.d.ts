// the package brings types, and its list of exports hides them
declare module 'xspattern' {
	/** A pattern of XML Schema as a function that says whether a whole text matches it. @throws when it is none */
	export function compile(pattern: string): (text: string) => boolean;
}
