import { isObject, type JsonObject } from '../model/json.ts';
import { requirementsOf, type OpenapiOperation, type Requirement } from '../openapi/index.ts';
import type { MadeCredential } from './credentials.ts';

/** By what a call is proved: a credential, and keys beside it where several ways are wanted at once. */
interface Proof {
	credential: string;
	keys: NonNullable<MadeCredential['key']>[];
}

/** Each way in which a call may be proved, in the order of the document; one that wants nothing has no credential. */
function proofsOf(operation: OpenapiOperation, credentials: MadeCredential[]): Proof[] {
	return requirementsOf(operation)
		.filter((one) => possible(one, credentials))
		.map((requirement) => {
			const wanted = requirement.flatMap(({ scheme }) => credentials.find((one) => one.scheme === scheme) ?? []);
			const main = wanted.find(({ key }) => !key) ?? wanted[0];
			const keys = wanted.flatMap((one) => (one !== main && one.key ? [one.key] : []));
			return { credential: main?.name ?? '', keys };
		});
}

/** By what a call is proved: of several ways the collection's own before the first. */
export function proofOf(operation: OpenapiOperation, credentials: MadeCredential[], usual: string): Proof {
	const [first, ...others] = proofsOf(operation, credentials);
	if (!first) return { credential: '', keys: [] };
	// what may be called by nobody is called so, where that is said first
	if (usual === '' || first.credential === '') return first;
	return [first, ...others].find((one) => one.credential === usual && one.keys.length === 0) ?? first;
}

/** The credential that most calls take, or can take. */
export function usualOf(operations: OpenapiOperation[], credentials: MadeCredential[]): string {
	const counts = new Map<string, number>();
	for (const operation of operations) {
		const [first = '', ...others] = proofsOf(operation, credentials).map(({ credential }) => credential);
		for (const name of new Set([first, ...(first === '' ? [] : others.filter(Boolean))]))
			counts.set(name, (counts.get(name) ?? 0) + 1);
	}
	// where it is even, one that is there says more than none
	const [best] = [...counts].sort((a, b) => b[1] - a[1] || (a[0] === '' ? 1 : b[0] === '' ? -1 : 0));
	return best?.[0] ?? '';
}

/** Whether there are credentials for all that is wanted at once; of those that are no keys, one can be used. */
const possible = (requirement: Requirement, credentials: MadeCredential[]): boolean => {
	const found = requirement.map(({ scheme }) => credentials.find((one) => one.scheme === scheme));
	return found.every(Boolean) && found.filter((one) => !one!.key).length <= 1;
};

/** Fields of a token request (RFC 6749 sections 4.3.2 and 2.3.1), and what a credential calls them. */
const TOKEN_FIELDS = { username: 'user', password: 'password', client_id: 'clientId', client_secret: 'clientSecret' };

/** The form of a call that fetches a token, with what the credential fetches one with. */
export function signOnBody(operation: OpenapiOperation, body: JsonObject, credentials: MadeCredential[]): JsonObject {
	const { form } = body;
	if (operation.method !== 'POST' || !isObject(form)) return body;
	const { made } = credentials.find(({ made: { value } }) => fetchesAt(value, operation)) ?? {};
	const value = isObject(made?.value) ? (made.value as JsonObject) : undefined;
	if (!value) return body;
	const known = Object.entries(TOKEN_FIELDS).flatMap(([field, key]) =>
		field in form && typeof value[key] === 'string' ? [[field, value[key]]] : []
	);
	return { ...body, form: { ...(form as JsonObject), ...Object.fromEntries(known) } };
}
const fetchesAt = (credential: unknown, { template, prefixes }: OpenapiOperation): boolean => {
	if (!isObject(credential) || !/^(password|client-credentials)$/.test(String(credential.grant))) return false;
	const endpoint = String(credential.tokenEndpoint);
	return URL.canParse(endpoint) && ['', ...prefixes].some((one) => one + template === new URL(endpoint).pathname);
};
