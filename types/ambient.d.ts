declare module '*?nodeworker' {
	const source: string;
	export default source;
}
declare const __APP_VERSION__: string;
/** The hash by which the files of the command's program are named. */
declare const __PROGRAM__: string;
