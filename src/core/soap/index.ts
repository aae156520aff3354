export { BUILTINS, type Facets } from './builtins.ts';
export { contractFaults, openEnvelope, replyFaults, schemaTexts, type EnvelopeFault } from './contract.ts';
export {
	ANY_KEY,
	EACH_KEY,
	ENVELOPE,
	TEXT_KEY,
	TYPE_KEY,
	type SoapValues,
	type ValueProblem,
	type WrittenEnvelope
} from './envelope.ts';
export { hasAny, maxOf } from './particles.ts';
export { hideExpressions, readEnvelope } from './read.ts';
export { sameXml } from './same.ts';
export { writeEnvelope } from './write.ts';
export { answerModel, parseAnsweredFault, writeAnswer, writeFault, type AnsweredFault } from './answer.ts';
export { readFault, type SoapFault } from './fault.ts';
export {
	elementsWithin,
	modelOf,
	valueKey,
	type ComplexModel,
	type ElementModel,
	type ParticleModel,
	type SoapModel,
	type TypeModel
} from './model.ts';
export { readable, sampleElement, SAMPLE_LIMITS, sampleSimple, sampleValues, type SampleKind } from './sample.ts';
export { UNBOUNDED, type SimpleType } from './schema.ts';
export { createShelf, type FoundOperation, type Shelf } from './shelf.ts';
export { simpleProblem } from './simple.ts';
export {
	childOf,
	childrenOf,
	attributeOf,
	elementsOf,
	escapeAttribute,
	escapeText,
	parseXml,
	scopeAt,
	standAlone,
	textIn,
	type XmlElement
} from './tree.ts';
export {
	fileOfAddress,
	locationsIn,
	readDefinition,
	resolveLocation,
	type Definition,
	type DefinitionProblem,
	type SoapOperation,
	type SoapVersion
} from './wsdl.ts';
export { readRelated, withoutXop, type Related, type RelatedPart } from './related.ts';
export { compareDefinitions, type OperationChange } from './compare.ts';
export { gatherDefinition, locationsOf, mainsAmong, OTHER_HOST, type GivenFile } from './gather.ts';
export {
	nameFrom,
	planDefinition,
	idOf,
	planImport,
	sourceOf,
	readSource,
	SOURCE_FILE,
	soapStep,
	stepsOf,
	type ImportOrder
} from './to-collection.ts';
export { xmlFileText } from './shelf.ts';
export { patchEnvelope, withValue } from './patch.ts';
export { prettyXml } from './pretty.ts';
export { parseSoap, SOAP_FIELDS, type Attachment, type SoapSpec } from './spec.ts';
export { viewSoapOperation } from './operation-view.ts';
