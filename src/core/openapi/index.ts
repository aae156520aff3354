export { createCatalog, type Catalog, type OpenapiDefinition } from './catalog.ts';
export { replyFaults, type ValidateBy } from './contract.ts';
export { filesReferred, looksLikeOpenapi, readOpenapi, type OpenapiDocument, type OpenapiVersion } from './document.ts';
export { nameOf, operationsAt, operationsOf, wholeOf, type CallPlace, type OpenapiOperation } from './operations.ts';
export { replySchema } from './schema.ts';
export { typesOf } from './types.ts';
