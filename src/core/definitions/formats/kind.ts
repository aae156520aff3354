import type { DefinitionPlan } from '../../model/definition-plan.ts';
import type { GivenFile } from '../../soap/index.ts';
import type { ImportOrder } from '../../imports/index.ts';

/** A format of definitions that can be imported. */
export interface DefinitionFormat {
	key: string;
	/** Whether a file is a document of this format. */
	fits(file: GivenFile): boolean;
	/** The files that a text names which belongs to a definition; undefined where it is of another format. */
	names(text: string): string[] | undefined;
	/** What is given beside one of it is read by it alone. */
	alone?: true;
	/** What the import of its documents does to a project; nothing is done yet. @throws HeronError definition.* */
	plan(given: ImportOrder, documents: GivenFile[]): DefinitionPlan[];
}
