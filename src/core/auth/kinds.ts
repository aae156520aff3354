import { apiKey } from './api-key.ts';
import { basic } from './basic.ts';
import { bearer } from './bearer.ts';
import { clientCertificate } from './client-certificate.ts';
import { digest } from './digest.ts';
import { jwt } from './jwt.ts';
import type { CredentialKind } from './kind.ts';
import { messageSignature } from './message-signature.ts';
import { none } from './none.ts';
import { oauth1 } from './oauth1.ts';
import { oauth2 } from './oauth2.ts';
import { recipe } from './recipe.ts';
import { wsSecurity } from './ws-security.ts';

/** All kinds of credentials, in the order in which they are offered. */
export const credentialKinds: readonly CredentialKind[] = [
	...[basic, bearer, apiKey, oauth2, recipe, clientCertificate],
	...[digest, jwt, messageSignature, oauth1, wsSecurity, none]
];
/** The kind of a credential by its key; undefined for one that nobody knows. */
export const credentialKind = (key: unknown): CredentialKind | undefined =>
	credentialKinds.find((kind) => kind.key === key);
