declare module 'strong-soap' {
	import type { Server } from 'node:http';
	const strong: { soap: { listen(server: Server, path: string, services: object, wsdl: string): unknown } };
	export default strong;
}
