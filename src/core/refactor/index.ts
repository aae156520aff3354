export { RENAMED_FOLDERS, withDatasetRenamed, withDocumentRenamed, type RenamedFolder } from './document.ts';
export { withCollectionPlaced, withoutOrder, type Placement } from './order.ts';
export { withScenarioRenamed } from './scenario.ts';
export {
	scenariosOf,
	stepsOf,
	withColumnNamed,
	withKeptRenamed,
	withScenarioAdded,
	withScenarioDuplicated,
	withScenarioMoved,
	withScenarioRemoved,
	withStepDuplicated,
	withStepMoved,
	withStepRemoved,
	withStepRenamed,
	withStepsAdded,
	type StepPlace
} from './steps.ts';
export { withScenariosChanged, type ScenarioChange } from './scenarios.ts';
export {
	countUses,
	renamedDocument,
	renamedText,
	renamedValue,
	usesOfColumn,
	usesOfName,
	withColumnRenamed,
	type NameUse,
	type Root
} from './names.ts';
