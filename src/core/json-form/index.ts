export { fieldsOf, partsOfValue, valueOfFields, valueOfParts } from './fields.ts';
export { faultsIn } from './faults.ts';
export { itemSchema, looseSchema, partsOf, resolve, typesOf, valuesOf, type Part, type Root } from './schema.ts';
export { inBranch, startOf, type FillKind } from './start.ts';
