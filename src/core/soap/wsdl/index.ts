export { fileOfAddress, locationsIn, offersService, resolveLocation } from './locations.ts';
export { readDefinition } from './read.ts';
export type {
	Definition,
	DefinitionProblem,
	PlainOperation,
	SoapMessage,
	SoapOperation,
	SoapVersion
} from './types.ts';
