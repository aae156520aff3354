import { HeronError } from '../errors.ts';
import type { JsonObject } from '../model/json.ts';
import { pemOf } from '../model/transport.ts';
import { parseDuration } from '../model/units.ts';
import { bytesToHex } from '../values/index.ts';
import { placeField, withBearer } from './bearer.ts';
import {
	JWS_ALGORITHMS,
	membersIn,
	textIn,
	type AuthTools,
	type CredentialField,
	type CredentialKind,
	type Key
} from './kind.ts';

export const keyFields: CredentialField[] = [
	{
		name: 'key',
		label: 'Key',
		doc: 'For HS: the shared secret. Else a private key: a PEM file of the project, or a secret that holds PEM.',
		form: 'text',
		required: true
	},
	{ name: 'passphrase', label: 'Passphrase', doc: 'Opens an encrypted private key.', form: 'text', secret: true }
];

/** The signing key of a credential; keys that are texts are hidden from then on. */
export function keyOf(given: JsonObject, tools: Pick<AuthTools, 'name' | 'ports' | 'learn'>, shared: boolean): Key {
	const given_ = textIn(given, 'key');
	if (!given_) throw new HeronError('auth.wrong', { name: tools.name, detail: 'the key is missing' });
	const text = shared ? given_ : pemOf(given_, (path) => tools.ports.readFile?.(path));
	tools.learn(`${tools.name}.key`, text);
	const passphrase = textIn(given, 'passphrase');
	return { text, ...(passphrase ? { passphrase } : {}) };
}

export const jwt: CredentialKind = {
	key: 'jwt',
	label: 'JSON Web Token',
	standard: 'RFC 7519, RFC 7515',
	doc: 'A token made and signed here for every call, sent as Bearer.',
	fields: [
		{
			name: 'algorithm',
			label: 'Algorithm',
			doc: 'alg of the header.',
			form: 'choice',
			choices: JWS_ALGORITHMS,
			required: true
		},
		...keyFields,
		{ name: 'keyId', label: 'Key id', doc: 'kid of the header.', form: 'text' },
		{
			name: 'claims',
			label: 'Claims',
			doc: 'Names and values, lists and objects among them. iat, exp and jti are put in unless they are given.',
			form: 'members'
		},
		{ name: 'header', label: 'Header', doc: 'Further members of the header.', form: 'members' },
		{ name: 'lifetime', label: 'Lifetime', doc: 'From iat to exp.', form: 'duration', otherwise: '5 min' },
		placeField
	],
	example: { kind: 'jwt', algorithm: 'ES256', key: '{$secret.wardenKey}', claims: { iss: 'warden', aud: 'gatehouse' } },
	open(given, tools) {
		const algorithm = textIn(given, 'algorithm');
		const key = keyOf(given, tools, algorithm.startsWith('HS'));
		return {
			async apply(request) {
				const now = Math.floor(tools.ports.now() / 1000);
				const life = (parseDuration(textIn(given, 'lifetime')) ?? 300_000) / 1000;
				const claims: JsonObject = {
					iat: now,
					exp: now + life,
					jti: bytesToHex(tools.ports.randomBytes(16)),
					...membersIn(given, 'claims')
				};
				const header: JsonObject = {
					typ: 'JWT',
					...(given.keyId ? { kid: textIn(given, 'keyId') } : {}),
					...membersIn(given, 'header'),
					alg: algorithm
				};
				const token = await tools.ports.crypto.jws(header, claims, key);
				tools.learn(`${tools.name}.token`, token);
				return withBearer(request, token, textIn(given, 'in'), tools.name);
			}
		};
	}
};
