import { writeJson } from '../model/json.ts';
import { lookUp } from '../model/lookup.ts';
import type { Level } from './compare-schema/index.ts';
import type { OpenapiDocument } from './document.ts';
import { operationsOf, type OpenapiOperation } from './operations.ts';
import { flowsOf, requirementsOf, securitySchemes, type Requirement, type SecurityScheme } from './security.ts';

const text = (value: unknown): string => (typeof value === 'string' ? value : '');

/** What a scheme wants of a call, in words; two that want the same have the same words. */
function wordsOfScheme({ type, value }: SecurityScheme): string {
	if (type === 'apiKey') {
		const name = value.in === 'header' ? text(value.name).toLowerCase() : text(value.name);
		return `an API key (${text(value.in)} ${name})`;
	}
	if (type === 'http') return `HTTP authentication (${text(value.scheme).toLowerCase()})`;
	return lookUp(OTHER_KINDS, type) ?? type;
}
const OTHER_KINDS = { oauth2: 'OAuth 2.0', openIdConnect: 'OpenID Connect', mutualTLS: 'a client certificate' };

/** What security schemes that calls used to be made with want now. What a single operation asks for is told with it. */
export function compareSchemes(
	before: OpenapiDocument,
	after: OpenapiDocument,
	tell: (level: Level, rule: string, text: string) => void
): void {
	const now = new Map(securitySchemes(after).map((one) => [one.name, one]));
	const used = new Set(
		operationsOf(before)
			.flatMap((one) => requirementsOf(one).flat())
			.map(({ scheme }) => scheme)
	);
	for (const was of securitySchemes(before)) {
		const is = now.get(was.name);
		if (!is || !used.has(was.name)) continue;
		const [old, fresh] = [wordsOfScheme(was), wordsOfScheme(is)];
		if (old !== fresh) tell('breaking', 'security scheme', `the security scheme ${was.name} was ${old}, is ${fresh}`);
		else if (was.type === 'oauth2') compareFlows(was, is, (level, what) => tell(level, 'security scheme', what));
		else if (text(was.value.openIdConnectUrl) !== text(is.value.openIdConnectUrl))
			tell(
				'careful',
				'security scheme',
				`the security scheme ${was.name} is signed in with elsewhere: ${text(is.value.openIdConnectUrl)}`
			);
	}
}

const FLOWS = {
	clientCredentials: 'client credentials',
	authorizationCode: 'authorization code',
	password: 'password',
	implicit: 'implicit',
	deviceAuthorization: 'device authorization'
};

function compareFlows(was: SecurityScheme, is: SecurityScheme, tell: (level: Level, text: string) => void): void {
	const now = new Map(flowsOf(is).map((one) => [one.kind, one]));
	for (const { kind, tokenUrl } of flowsOf(was)) {
		const flow = `the flow ${FLOWS[kind]} of the security scheme ${was.name}`;
		const other = now.get(kind);
		if (!other) tell('breaking', `${flow} is gone`);
		else if (other.tokenUrl !== tokenUrl) tell('careful', `${flow} has another token address: ${other.tokenUrl}`);
	}
}

/** The names before of schemes that only have another name now. */
function knownNames(before: OpenapiDocument, after: OpenapiDocument): Map<string, string> {
	const identityOf = (scheme: SecurityScheme) =>
		writeJson([
			wordsOfScheme(scheme),
			text(scheme.value.openIdConnectUrl),
			flowsOf(scheme).map(({ kind, tokenUrl }) => [kind, tokenUrl])
		]);
	const was = securitySchemes(before);
	const names = new Set(was.map(({ name }) => name));
	const byIdentity = new Map(was.map((one) => [identityOf(one), one.name]));
	return new Map(
		securitySchemes(after).flatMap((one): [string, string][] => {
			const old = names.has(one.name) ? undefined : byIdentity.get(identityOf(one));
			return old === undefined ? [] : [[one.name, old]];
		})
	);
}

const wordsOf = (ways: Requirement[]): string =>
	ways
		.map((way) =>
			way.map(({ scheme, scopes }) => (scopes.length > 0 ? `${scheme} (${scopes.join(', ')})` : scheme)).join(' and ')
		)
		.join(', or ');

/** Which ways of proving who calls are enough: one of them was, and must still be. */
export function compareSecurity(
	before: OpenapiOperation,
	after: OpenapiOperation,
	tell: (level: Level, rule: string, place: string, text: string) => void
): void {
	const [was, is] = [requirementsOf(before), requirementsOf(after)];
	const open = (ways: Requirement[]) => ways.length === 0 || ways.some((way) => way.length === 0);
	if (open(was) && !open(is)) return tell('breaking', 'security', '', `wants ${wordsOf(is)}, and wanted nothing`);
	if (!open(was) && open(is)) return tell('harmless', 'security', '', 'wants no proof of who calls any more');
	const known = knownNames(before.document, after.document);
	const partsOf = (way: Requirement, nameOf = (name: string) => name) =>
		way.flatMap(({ scheme, scopes }) =>
			[[], ...scopes.map((scope) => [scope])].map((scope) => writeJson([nameOf(scheme), ...scope]))
		);
	const wanted = is.map((way) => partsOf(way, (name) => known.get(name) ?? name));
	const lost = was.filter((way) => {
		const given = new Set(partsOf(way));
		return !wanted.some((parts) => parts.every((part) => given.has(part)));
	});
	if (lost.length > 0)
		tell('breaking', 'security', '', `${wordsOf(lost)} is not enough any more: it wants ${wordsOf(is)}`);
}
