import type { CertificateFacts } from '../model/exchange.ts';
import type { JsonObject } from '../model/json.ts';
import type { Fix } from './stage.ts';
import type { ReachTarget } from './target.ts';

/** As much of a target as a change of its files needs. */
export type Written = Pick<ReachTarget, 'connection' | 'variables'>;

const connectionFile = (target: Written): string => `connections/${target.connection!.name}.yaml`;
/** Where a field of the connection stands: in what differs for the environment, if it differs there. */
function fieldPath(target: Written, path: string[]): (string | number)[] {
	const { variant, environment } = target.connection!;
	return variant ? ['environments', environment, ...path] : path;
}

/** Sets a field of the connection; nothing for a bare address. */
export function settingFix(
	target: Written,
	label: string,
	path: string[],
	value: JsonObject[string] | undefined
): Fix[] {
	if (!target.connection) return [];
	return [
		{
			label,
			edits: [
				{ file: connectionFile(target), path: fieldPath(target, path), ...(value === undefined ? {} : { value }) }
			]
		}
	];
}

/** A base address as it is written: a variable at most, and what follows it. */
function baseParts(target: Written): { variable?: string; held: string; rest: string } | undefined {
	const base = String(target.connection?.raw.base ?? '');
	const opening = /^\{\$env\.([A-Za-z_]\w*)\}/.exec(base);
	const rest = opening ? base.slice(opening[0].length) : '';
	if ((opening ? rest : base).includes('{$')) return undefined;
	if (!opening) return { held: base, rest: '' };
	const held = target.variables[opening[1]!];
	return typeof held === 'string' && !held.includes('{$') ? { variable: opening[1]!, held, rest } : undefined;
}
/** Writes what a base address begins with: in the connection, or in the variable that holds it. */
function writeBase(target: Written, label: string, variable: string | undefined, value: string): Fix[] {
	if (variable === undefined) return settingFix(target, label, ['base'], value);
	const file = `environments/${target.connection!.environment}.yaml`;
	return [{ label, edits: [{ file, path: ['variables', variable], value }] }];
}

/** Another beginning of the base address: written where it stands, in the connection or in the variable it is made of. */
export function baseFix(target: Written, label: string, change: (url: string) => string): Fix[] {
	const parts = target.connection && baseParts(target);
	return parts ? writeBase(target, label, parts.variable, change(parts.held)) : [];
}

/**
 * Another base address as a whole. Where a variable is only its beginning, what follows it has to be the same, so that
 * the variable alone changes, and other connections that it serves stay right.
 */
export function movedFix(target: Written, whole: string): Fix[] {
	const parts = target.connection && baseParts(target);
	if (!parts) return [];
	const [moved, rest] = [whole, parts.rest].map((text) => text.replace(/\/+$/, '')) as [string, string];
	if (!moved.endsWith(rest)) return [];
	const label = `Use ${moved}`;
	return writeBase(target, label, parts.variable, moved.slice(0, moved.length - rest.length).replace(/\/+$/, ''));
}

/** The proxy’s address with another scheme, where it is written out. */
export function proxySchemeFix(target: Written, scheme: 'http' | 'https'): Fix[] {
	const given = target.connection?.raw.proxy;
	const long = typeof given === 'object' && given !== null && !Array.isArray(given);
	const address = String((long ? given.address : given) ?? '');
	if (!address || address.includes('{$')) return [];
	const next = `${scheme}://${address.replace(/^\w+:\/\//, '')}`;
	return settingFix(target, `Reach the proxy by ${scheme}://`, long ? ['proxy', 'address'] : ['proxy'], next);
}

/** What fixes a base address that lacks its scheme. */
export function schemeFixes(target: Written): Fix[] {
	const { connection, variables } = target;
	const base = String(connection?.raw.base ?? '').trim();
	const filled = base.replace(/^\{\$env\.(\w+)\}/, (whole, name: string) => String(variables[name] ?? whole));
	if (!/^[a-z\d][\w.-]*(:\d+)?(\/|$)/i.test(filled)) return [];
	return ['https', 'http'].flatMap((scheme) =>
		baseFix(target, `Begin it with ${scheme}://`, (url) => `${scheme}://${url.trim()}`)
	);
}

/** An address with another scheme of HTTP. */
export const withScheme = (scheme: string) => (url: string) => url.replace(/^https?:/i, `${scheme}:`);

/** The proxy settings of a connection with its host among those that go past it. */
export function bypassed(target: ReachTarget): JsonObject {
	const given = target.connection?.raw.proxy;
	const settings = (typeof given === 'object' && given !== null ? given : { address: given ?? '' }) as JsonObject;
	const except = Array.isArray(settings.except) ? settings.except : [];
	return { ...settings, except: [...except, target.host] };
}

/** The TLS settings of a connection as they are written. */
export const tlsSettings = (target: ReachTarget): JsonObject => {
	const { tls } = target.connection?.raw ?? {};
	return (typeof tls === 'object' && tls !== null && !Array.isArray(tls) ? tls : {}) as JsonObject;
};
const fileName = (text: string): string =>
	text
		.toLowerCase()
		.replace(/[^a-z0-9]+/g, '-')
		.replace(/^-|-$/g, '')
		.slice(0, 40) || 'authority';

/** Trusts the certificate that was shown, as a file of the project; none where there is nothing to trust. */
export function trustFix(target: ReachTarget, certificate: CertificateFacts | undefined, label: string): Fix[] {
	if (!target.connection || !certificate?.pem) return [];
	const path = `files/trusted/${fileName(certificate.subject)}-${certificate.fingerprint.replace(/:/g, '').slice(0, 8).toLowerCase()}.pem`;
	const before = tlsSettings(target).authorities;
	const value = [...(Array.isArray(before) ? before : []), path];
	return [
		{
			label,
			edits: [{ file: connectionFile(target), path: fieldPath(target, ['tls', 'authorities']), value }],
			files: [{ path, text: certificate.pem }]
		}
	];
}
