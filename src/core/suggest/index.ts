export { fittingRelation } from './relation.ts';
export { gatherSchema, inferSchema, type SchemaGathering } from './schema.ts';
export { suggestChecks, type Answered, type Suggestion } from './checks.ts';
