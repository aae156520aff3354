// the package ships no types; tests need no more of it than this
declare module 'oidc-provider' {
	import type { RequestListener } from 'node:http';
	export default class Provider {
		constructor(issuer: string, configuration: object);
		callback(): RequestListener;
	}
}
