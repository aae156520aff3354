export { createCatalog, type Catalog, type OpenapiDefinition } from './catalog.ts';
export { changesBetween } from './changes.ts';
export { replyFaults, type ValidateBy } from './contract.ts';
export {
	filesReferred,
	keysOf,
	looksLikeOpenapi,
	readOpenapi,
	type OpenapiDocument,
	type OpenapiVersion
} from './document.ts';
export { nameOf, operationsAt, operationsOf, type CallPlace, type OpenapiOperation } from './operations.ts';
export { replySchema } from './schema.ts';
export { typesOf } from './types.ts';
export { documentWarnings, type DocumentWarning } from './warnings.ts';
