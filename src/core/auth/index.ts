export { parseChallenges } from './challenge.ts';
export { digestAsked, digestField, digestResponse, isStale, type DigestAsked } from './digest.ts';
export { credentialKind, credentialKinds } from './kinds.ts';
export {
	type AuthPorts,
	type AuthTools,
	type Authorizer,
	type CredentialField,
	type CredentialKind,
	type CryptoPort,
	type Key
} from './kind.ts';
export { challengeOf, createFlow, type Flow, type FlowView, type Leg, type LegKey } from './oauth2/flow.ts';
export { oauth1BaseString } from './oauth1.ts';
export { requestNames, traceRecipe, type Trace, type TracedLine } from './recipe.ts';
export { readyRecipes } from './recipe/ready.ts';
export { checkVector, vectorRequest, type VectorVerdict } from './recipe/vector.ts';
export { createTokenKeeper, type Token, type TokenKeeper } from './token.ts';
export { usernameDigest } from './ws-security.ts';
