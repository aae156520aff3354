export { BUILTINS } from './builtins.ts';
export { contractFaults, openEnvelope, replyFaults, schemaTexts } from './contract.ts';
export { ANY_KEY, EACH_KEY, TEXT_KEY, TYPE_KEY, type SoapValues, type ValueProblem } from './envelope.ts';
export { hasAny, maxOf } from './particles.ts';
export { hideExpressions, readEnvelope } from './read.ts';
export { sameXml } from './same.ts';
export { writeEnvelope } from './write/index.ts';
export { answerModel, writeAnswer, writeFault, type AnsweredFault } from './answer.ts';
export { readFault, type SoapFault } from './fault.ts';
export {
	elementsWithin,
	modelOf,
	valueKey,
	type ComplexModel,
	type ElementModel,
	type ParticleModel,
	type SoapModel
} from './model.ts';
export { readable, sampleElement, sampleSimple, sampleValues, type SampleKind } from './sample.ts';
export { UNBOUNDED, type SimpleType } from './schema/index.ts';
export { createWsdlRegistry, type FoundOperation, type WsdlRegistry } from './registry.ts';
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
	readDefinition,
	resolveLocation,
	type Definition,
	type DefinitionProblem,
	type PlainOperation,
	type SoapOperation
} from './wsdl/index.ts';
export { compareDefinitions } from './compare.ts';
export { gatherDefinition, locationsOf, mainsAmong, OTHER_HOST, type GivenFile } from './gather.ts';
export { idOf, nameFrom } from './names.ts';
export { readSource, SOURCE_FILE, sourceOf } from './source.ts';
export { twinsAmong } from './twins.ts';
export { xmlFileText } from './registry.ts';
export { patchEnvelope, withValue } from './patch.ts';
export { prettyXml } from './pretty.ts';
export { parseSoap, SOAP_FIELDS, type SoapSpec } from './spec.ts';
export { viewSoapOperation } from './operation-view.ts';
