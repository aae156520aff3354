export { countUses, renamedDocument, renamedText, usesOfName, type NameUse, type Root } from './names.ts';
