import type { StandIn } from '../documents/stand-in.ts';
import { HeronError } from '../errors.ts';
import type { Workspace } from '../project/index.ts';
import { ByOpenapi } from './by-openapi.ts';
import { ByWsdl } from './by-wsdl.ts';
import { NO_DEFINITION, type Definitions } from './defined.ts';
import type { StandInPorts } from './ports.ts';

/**
 * Opens the definition that a stand-in names.
 * @throws HeronError definition.wrong, definition.none
 */
export function openDefinition(spec: StandIn, workspace: Workspace, ports: StandInPorts): Definitions {
	if (!spec.definition) return NO_DEFINITION;
	const file = spec.definition.startsWith('definitions/') ? spec.definition : `definitions/${spec.definition}`;
	if (/\.wsdl$/i.test(file)) return new ByWsdl(file, workspace.wsdls.definition(file), spec, ports);
	const found = workspace.openapis.all().find((one) => one.file === file);
	if (found?.error) throw found.error;
	if (!found?.definition) throw new HeronError('file.missing', { file });
	return new ByOpenapi(file, found.definition, spec, ports);
}
