export { bodiesOf, bodyOf, literally, preferredBody } from './bodies.ts';
export { sampleCall } from './call.ts';
export { nameIn, parametersOf, styled, type Parameter } from './parameters.ts';
export { callbacksOf, messageOf, webhooksOf, type MadeCallback, type Webhook } from './callbacks.ts';
export { createOpenapiRegistry, type OpenapiRegistry, type OpenapiDefinition } from './registry.ts';
export { chainsOf, type Chain, type ChainStep } from './chains.ts';
export { compareDefinitions, LEVELS, shapeOfPath, type DefinitionChange, type Level } from './compare.ts';
export { changesBetween } from './changes.ts';
export { answersOf, replyFaults, successStatus } from './contract.ts';
export { keysOf } from './pointer.ts';
export { filesReferred, looksLikeOpenapi, readOpenapi, type OpenapiDocument } from './document.ts';
export { requestFaults } from './request.ts';
export { sampleReply } from './reply.ts';
export { carriedBy, fragmentOf, routeOf, type Carried } from './variants.ts';
export {
	nameOf,
	pathValues,
	operationAt,
	operationsAt,
	operationsOf,
	type CallPlace,
	type OpenapiOperation
} from './operations.ts';
export { viewOperation } from './operation-view.ts';
export { flatSchema } from './flat.ts';
export { fitsPattern, isOf, permits, referred } from './permits.ts';
export { sampleOf, type Fill } from './sample.ts';
export { merged, typeOf } from './schema-parts.ts';
export { bundled, replySchema } from './schema.ts';
export { CHOICES, NAMED } from './schema-converter.ts';
export { flowsOf, requirementsOf, securitySchemes, type Requirement, type SecurityScheme } from './security.ts';
export { ownPlace, serversOf, type Server } from './servers.ts';
export { typesOf } from './types.ts';
export { documentWarnings, type DocumentWarning } from './warnings.ts';
