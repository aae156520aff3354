export { fieldsOf, isBinary, partsOfValue, valueOfFields, valueOfParts } from './fields.ts';
export { faultsIn, type FormFault } from './faults.ts';
export {
	isComputed,
	itemSchema,
	looseSchema,
	partsOf,
	resolve,
	typesOf,
	valuesOf,
	type Branch,
	type Fork,
	type Part,
	type Resolved,
	type Root
} from './schema.ts';
export { inBranch, startOf, type FillKind } from './start.ts';
