import type { JsonObject } from '../model/json.ts';
import { fileName } from '../model/name.ts';
import { flowsOf, securitySchemes, type OpenapiDocument, type SecurityScheme } from '../openapi/index.ts';
import type { Workspace } from '../project/index.ts';
import { camel, type Made, type Wanted } from '../imports/index.ts';

/** A credential for a way to prove who calls; several flows of OAuth 2.0 give several. */
export interface MadeCredential {
	name: string;
	scheme: string;
	kind: string;
	made: Made;
	/** What can be put into the call itself beside another credential: the name, the place, and the secret. */
	key?: { in: string; name: string; value: string };
}

/** What credentials are made for. */
interface Given {
	/** The definition's name. */
	name: string;
	/** Where it is from; relative addresses are below it. */
	address: string;
	workspace: Workspace;
	/** Takes the secrets and variables that they name. */
	wanted: Wanted;
	/** Scopes that operations ask for, by scheme. */
	scopes: Map<string, Set<string>>;
}

/** Credentials for the security schemes of a document; secrets are named, and have no value yet. */
export const credentialsFor = (
	document: OpenapiDocument,
	given: Given,
	tell: (message: string) => void
): MadeCredential[] =>
	securitySchemes(document).flatMap((scheme) => {
		const maker = new Maker(scheme, given, tell);
		const make = Object.hasOwn(makers, scheme.type) ? makers[scheme.type] : undefined;
		if (make) return make(maker);
		tell(`the security scheme ${scheme.name} is of the type "${scheme.type}", which is none`);
		return [];
	});

/** Makes what one security scheme asks for. */
class Maker {
	readonly scheme: SecurityScheme;
	/** What its secrets and variables begin with. */
	readonly word: string;
	readonly tell: (message: string) => void;
	readonly #given: Given;

	constructor(scheme: SecurityScheme, given: Given, tell: (message: string) => void) {
		this.scheme = scheme;
		this.word = camel(`${given.name} ${scheme.name}`);
		this.tell = tell;
		this.#given = given;
	}

	/** @param more tells several of one scheme apart */
	credential(value: JsonObject, more = ''): MadeCredential {
		const { name, value: said } = this.scheme;
		const own = fileName(name) || 'caller';
		let file = more ? `${own}-${more}` : own;
		const before = this.#given.workspace.credentials.get(file);
		if (before && before.kind !== value.kind) file = `${this.#given.name}-${file}`;
		const title = typeof said.description === 'string' ? said.description.trim() : '';
		return {
			...{ name: file, scheme: name, kind: String(value.kind) },
			made: {
				path: `credentials/${file}.yaml`,
				value: { heron: 1, title: title && title.length <= 60 && !title.includes('\n') ? title : name, ...value }
			}
		};
	}

	/** A text of the scheme; empty where it says nothing. */
	says(key: string): string {
		const value = this.scheme.value[key];
		return typeof value === 'string' ? value : '';
	}

	secret(more = ''): string {
		this.#given.wanted.secrets.push(this.word + more);
		return `{$secret.${this.word}${more}}`;
	}

	variable(more: string): string {
		this.#given.wanted.variables[this.word + more] = '';
		return `{$env.${this.word}${more}}`;
	}

	/** An address in full; empty where it is none. */
	absolute(url: string): string {
		const { address } = this.#given;
		if (URL.canParse(url)) return url;
		return address && url && URL.canParse(url, address) ? new URL(url, address).href : '';
	}

	scopes(): string[] {
		return [...(this.#given.scopes.get(this.scheme.name) ?? [])];
	}
}

/** By the types of OpenAPI 3.1 section 4.8.27. */
const makers: Record<string, (maker: Maker) => MadeCredential[]> = {
	apiKey(maker) {
		const place = /^(query|cookie)$/.test(maker.says('in')) ? maker.says('in') : 'header';
		const key = { in: place, name: maker.says('name') || maker.scheme.name, value: maker.secret() };
		return [{ ...maker.credential({ kind: 'api-key', in: key.in, name: key.name, key: key.value }), key }];
	},
	http(maker) {
		const kind = maker.says('scheme').toLowerCase();
		if (kind === 'basic' || kind === 'digest')
			return [maker.credential({ kind, user: maker.variable('User'), password: maker.secret('Password') })];
		if (kind === 'bearer') return [maker.credential({ kind: 'bearer', token: maker.secret() })];
		const { name } = maker.scheme;
		maker.tell(`the security scheme ${name} is http ${maker.says('scheme')}: there is no credential of that kind`);
		return [];
	},
	oauth2: (maker) => {
		const flows = flowsOf(maker.scheme);
		return flows.flatMap((flow) =>
			ofFlow(maker, flow, flows.length > 1 ? fileName(flow.kind.replace(/[A-Z]/g, (c) => ` ${c}`)) : '')
		);
	},
	openIdConnect(maker) {
		const address = maker.absolute(maker.says('openIdConnectUrl'));
		const issuer = address.replace(/\/\.well-known\/openid-configuration\/?$/, '');
		if (!issuer) {
			maker.tell(`${maker.scheme.name}: its openIdConnectUrl is missing`);
			return [];
		}
		const scope = [...new Set(['openid', ...maker.scopes()])].join(' ');
		const clientId = maker.variable('Client');
		return [maker.credential({ kind: 'oauth2', grant: 'authorization-code', issuer, clientId, scope })];
	},
	mutualTLS({ scheme, tell }) {
		tell(`${scheme.name}: a client certificate is wanted: make a credential of that kind with yours`);
		return [];
	}
};

const GRANTS = {
	clientCredentials: 'client-credentials',
	authorizationCode: 'authorization-code',
	password: 'password',
	deviceAuthorization: 'device-code'
} as const;

/** A credential for one flow of OAuth 2.0 (OpenAPI 3.1 section 4.8.29). */
function ofFlow(maker: Maker, flow: ReturnType<typeof flowsOf>[number], more: string): MadeCredential[] {
	const { name } = maker.scheme;
	if (flow.kind === 'implicit') {
		maker.tell(`${name}: the implicit flow gives its token to a browser alone: put one into the secret ${maker.word}`);
		return [maker.credential({ kind: 'bearer', token: maker.secret() }, more)];
	}
	const tokenEndpoint = maker.absolute(flow.tokenUrl);
	if (!tokenEndpoint) {
		maker.tell(`${name}: the token address of its ${flow.kind} flow is missing`);
		return [];
	}
	const authorization = flow.kind === 'authorizationCode' ? maker.absolute(flow.authorizationUrl) : '';
	const device = flow.kind === 'deviceAuthorization' ? maker.absolute(flow.deviceUrl) : '';
	const scope = maker.scopes().join(' ');
	const value = {
		...{ kind: 'oauth2', grant: GRANTS[flow.kind] },
		...(authorization ? { authorizationEndpoint: authorization } : {}),
		...(device ? { deviceEndpoint: device } : {}),
		tokenEndpoint,
		clientId: maker.variable('Client'),
		...(flow.kind === 'clientCredentials' ? { clientSecret: maker.secret('Secret') } : {}),
		...(flow.kind === 'password' ? { user: maker.variable('User'), password: maker.secret('Password') } : {}),
		...(scope ? { scope } : {})
	};
	return [maker.credential(value, more)];
}
