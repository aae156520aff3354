import { credentialKind, credentialKinds, type CredentialField } from '../auth/index.ts';
import { didYouMean } from '../messages.ts';
import { hasExpression } from '../values/index.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import type { DocumentKind } from './kind.ts';
import { checkParams, PARAMS_SCHEMA } from '../model/params.ts';
import {
	findProblems,
	jsonSchemaOf,
	shaped,
	text,
	unknownKey,
	version,
	type OtherWords,
	type Report
} from '../model/shape.ts';
import { parseDuration } from '../model/units.ts';

/** How somebody proves who they are: a file in `credentials/`. */
export interface Credential {
	name: string;
	title: string;
	kind: string;
	/** As written, without version and title. */
	value: JsonObject;
}

const fieldSchema = (field: CredentialField): Json => {
	const description = [field.doc, field.otherwise && `Left out: ${field.otherwise}.`].filter(Boolean).join(' ');
	if (field.schema) return { ...(field.schema as JsonObject), description };
	if (field.form === 'choice') return { enum: [...(field.choices ?? [])], description };
	if (field.form === 'list')
		return { anyOf: [{ type: 'string' }, { type: 'array', items: { type: 'string' } }], description };
	if (field.form === 'params') return { ...(PARAMS_SCHEMA as JsonObject), description };
	if (field.form === 'members') return { type: ['object', 'array'], description };
	if (field.form === 'flag') return { type: 'boolean', description };
	return { type: 'string', description };
};

function checkField(field: CredentialField, value: unknown, report: Report): void {
	if (value === null || value === undefined) return;
	const computed = typeof value === 'string' && hasExpression(value);
	if (field.check) return field.check(value, report);
	if (field.form === 'params') return checkParams(value, report);
	if (field.form === 'members') {
		if (typeof value !== 'object') report([], 'names with their values are wanted');
		return;
	}
	if (field.form === 'list') {
		if (typeof value !== 'string' && !Array.isArray(value)) report([], 'a list of words is wanted');
		return;
	}
	if (field.form === 'flag') {
		if (typeof value !== 'boolean' && !computed) report([], 'true or false is wanted');
		return;
	}
	if (typeof value === 'object') return report([], 'a text is wanted');
	if (computed) return;
	if (field.secret && value !== '')
		return report([], 'the value of a secret does not stand in a file: refer to it, {$secret.NAME}');
	if (field.form === 'choice' && !field.choices!.includes(String(value)))
		return report(
			[],
			`one of ${field.choices!.join(', ')} is wanted${didYouMean(String(value), field.choices!).replace(/^; known.*/, '')}`
		);
	if (field.form === 'address' && value !== '' && !URL.canParse(String(value)))
		report([], 'a whole address is wanted, such as https://host/path');
	if (field.form === 'duration' && parseDuration(value) === undefined)
		report([], 'a duration is wanted, such as 500 ms, 2 s or 1 min');
}

/** A private key that stands in a file, wherever it stands. */
function findKeys(value: unknown, at: (string | number)[], report: Report): void {
	if (typeof value === 'string') {
		if (/-----BEGIN [A-Z ]*PRIVATE KEY-----/.test(value))
			report(at, 'a private key does not stand in a file: refer to it, {$secret.NAME}');
	} else if (typeof value === 'object' && value !== null) {
		for (const [key, item] of Object.entries(value)) findKeys(item, [...at, key], report);
	}
}

/** What settings are called elsewhere. */
const OTHER_WORDS: OtherWords = {
	user: ['username', 'login', 'userName'],
	password: ['pass', 'pwd'],
	tokenEndpoint: ['tokenUrl', 'tokenUri', 'accessTokenUrl'],
	authorizationEndpoint: ['authUrl', 'authorizationUrl', 'authorizeUrl'],
	clientId: ['client', 'client_id'],
	clientSecret: ['secret', 'client_secret'],
	scope: ['scopes'],
	name: ['header', 'headerName'],
	key: ['value', 'apiKey', 'secret'],
	token: ['accessToken', 'bearer']
};

/** The first sentence of a text, to stand behind a colon. */
const asHint = (doc: string): string =>
	doc.replace(/^[A-Z](?=[a-z ])/, (letter) => letter.toLowerCase()).replace(/\.$/, '');

function checkCredential(value: unknown, report: Report): void {
	if (!isObject(value)) return report([], 'keys with values are wanted');
	const kind = credentialKind(value.kind);
	const keys = credentialKinds.map((one) => one.key);
	if (!kind) {
		report(
			value.kind === undefined ? [] : ['kind'],
			value.kind === undefined
				? `kind is missing: one of ${keys.join(', ')}`
				: `there is no kind of credential "${String(value.kind)}"${didYouMean(String(value.kind), keys)}`
		);
		return;
	}
	const known = ['heron', 'title', 'kind', ...kind.fields.map((field) => field.name)];
	for (const key of Object.keys(value)) {
		if (!known.includes(key)) report([key], unknownKey(key, known, OTHER_WORDS));
	}
	for (const field of kind.fields) {
		if (field.required && (value[field.name] === undefined || value[field.name] === '' || value[field.name] === null))
			report([], `${field.name} is missing: ${asHint(field.doc || field.label)}`);
		else checkField(field, value[field.name], (at, message) => report([field.name, ...at], message));
	}
	findKeys(value, [], report);
	if (value.heron === undefined) report([], 'heron is missing: the version of the format, heron: 1');
	for (const { path, message } of findProblems(version, value.heron)) report(['heron', ...path], message);
	kind.check?.(value as JsonObject, report);
}

export const credential: DocumentKind = {
	name: 'credential',
	folder: 'credentials',
	doc: 'How we prove who we are: a kind and its settings; secret values only by reference.',
	schema: shaped(
		{
			type: 'object',
			required: ['heron', 'kind'],
			oneOf: credentialKinds.map((kind) => ({
				title: kind.label,
				description: kind.doc,
				properties: {
					heron: jsonSchemaOf(version),
					title: jsonSchemaOf(text('The name that people read.')),
					kind: { const: kind.key },
					...Object.fromEntries(kind.fields.map((field) => [field.name, fieldSchema(field)]))
				},
				required: kind.fields.filter((field) => field.required).map((field) => field.name),
				additionalProperties: false
			}))
		},
		checkCredential
	),
	example: { heron: 1, title: 'Clerk', kind: 'basic', user: '{$env.clerk}', password: '{$secret.clerkPassword}' }
};

/** A credential in full. */
export function parseCredential(name: string, value: Json): Credential {
	const { title, ...rest } = (isObject(value) ? value : {}) as JsonObject;
	delete rest.heron;
	return { name, title: typeof title === 'string' ? title : name, kind: String(rest.kind ?? ''), value: rest };
}
