import { lookUp } from '../model/lookup.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { inside, items, members, type Node, type OpenapiDocument } from './document.ts';
import type { OpenapiOperation } from './operations.ts';

/** A way by which callers prove who they are, as a document declares it (OpenAPI 3.1 section 4.8.27). */
export interface SecurityScheme {
	name: string;
	/** As declared: apiKey, http, oauth2, openIdConnect, mutualTLS; `basic` of 2.0 is http. */
	type: string;
	value: JsonObject;
}

/** What a call needs: several ways at once, each with its scopes. */
export type Requirement = { scheme: string; scopes: string[] }[];

const text = (value: unknown): string => (typeof value === 'string' ? value : '');

/** The security schemes of a document, in its order. */
export function securitySchemes(document: OpenapiDocument): SecurityScheme[] {
	const { root } = document;
	const components = inside(root, 'components');
	const holder =
		document.version === '2.0'
			? inside(root, 'securityDefinitions')
			: isObject(components.value)
				? inside(components as Node<JsonObject>, 'securitySchemes')
				: undefined;
	return (holder ? members(holder) : []).flatMap(([name, given]): SecurityScheme[] => {
		try {
			const { value } = document.follow(given);
			if (!isObject(value)) return [];
			const type = text(value.type);
			if (type === 'basic') return [{ name, type: 'http', value: { type: 'http', scheme: 'basic' } }];
			return [{ name, type, value: value as JsonObject }];
		} catch {
			return [];
		}
	});
}

/** What a call of an operation may be proved with, one of several; an empty one means that nothing is needed. */
export function requirementsOf({ document, node }: OpenapiOperation): Requirement[] {
	const own = inside(node, 'security');
	return items(own.value === undefined ? inside(document.root, 'security') : own).flatMap(({ value }) =>
		isObject(value)
			? [
					Object.entries(value as JsonObject).map(([scheme, scopes]) => ({
						scheme,
						scopes: Array.isArray(scopes) ? scopes.map(String) : []
					}))
				]
			: []
	);
}

/** One flow of OAuth 2.0 as 3.0 writes it, whatever the version. */
export interface OAuthFlow {
	kind: 'clientCredentials' | 'authorizationCode' | 'password' | 'implicit' | 'deviceAuthorization';
	authorizationUrl: string;
	tokenUrl: string;
	deviceUrl: string;
	scopes: string[];
}
const OLD_FLOWS: Record<string, OAuthFlow['kind']> = {
	application: 'clientCredentials',
	accessCode: 'authorizationCode',
	password: 'password',
	implicit: 'implicit'
};

/** The flows of a scheme of type oauth2; those that need nobody's consent first. */
export function flowsOf({ value }: SecurityScheme): OAuthFlow[] {
	const one = (kind: OAuthFlow['kind'], given: Record<string, unknown>): OAuthFlow => ({
		kind,
		authorizationUrl: text(given.authorizationUrl),
		tokenUrl: text(given.tokenUrl),
		deviceUrl: text(given.deviceAuthorizationUrl),
		scopes: isObject(given.scopes) ? Object.keys(given.scopes) : []
	});
	const old = lookUp(OLD_FLOWS, text(value.flow));
	if (old) return [one(old, value)];
	const flows = (isObject(value.flows) ? value.flows : {}) as Record<string, Json | undefined>;
	return (['clientCredentials', 'authorizationCode', 'password', 'deviceAuthorization', 'implicit'] as const).flatMap(
		(kind) => (isObject(flows[kind]) ? [one(kind, flows[kind])] : [])
	);
}
