import { HeronError } from '../errors.ts';
import type { Environment } from '../documents/environment.ts';
import { createRedactor } from '../redact/index.ts';
import type { PreparedRequest } from './ports.ts';

/** Throws when a request must not be sent: `secret.elsewhere`. */
export type Guard = (request: Pick<PreparedRequest, 'url' | 'headers' | 'body'>) => void;

/** Whether a host, as `secretHosts` names it, is that of an address: `*.` stands for any names before, a port counts if given. */
export function hostFits(named: string, { hostname, port, protocol }: URL): boolean {
	const [, host = '', wanted] = /^(.*?)(?::(\d+))?$/.exec(named.toLowerCase()) ?? [];
	if (wanted !== undefined && wanted !== (port || (protocol === 'https:' ? '443' : '80'))) return false;
	return host.startsWith('*.') ? hostname.endsWith(host.slice(1)) : hostname === host;
}

/**
 * Looks at every request that is about to leave, redirects and calls for tokens among them: a secret that an environment
 * binds to hosts goes nowhere else, in whatever coding it stands. Undefined when no secret is bound.
 */
export function guardOf(environment: Environment | undefined, secrets: Record<string, string>): Guard | undefined {
	const bound = Object.entries(environment?.secretHosts ?? {}).flatMap(([name, hosts]) => {
		const value = secrets[name];
		return value ? [{ name, hosts, redactor: createRedactor({ [name]: value }) }] : [];
	});
	if (bound.length === 0) return undefined;
	return ({ url, headers, body }) => {
		const target = new URL(url);
		const head = [url, ...headers.map(([name, value]) => `${name}: ${value}`)].join('\n');
		for (const { name, hosts, redactor } of bound) {
			if (hosts.some((host) => hostFits(host, target))) continue;
			if (redactor.text(head) === head && redactor.bytes(body) === body) continue;
			throw new HeronError('secret.elsewhere', {
				name,
				hosts: hosts.join(', ') || 'no host',
				host: target.host,
				environment: environment!.name
			});
		}
	};
}
