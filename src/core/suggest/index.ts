export { fittingRelation } from './relation.ts';
export { inferSchema } from './schema.ts';
export { suggestChecks, type Answered, type Suggestion } from './checks.ts';
