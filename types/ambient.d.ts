declare module '*?nodeworker' {
	const source: string;
	export default source;
}
declare const __APP_VERSION__: string;
