import { HeronError } from '#core/errors.ts';
import type { StandIn } from '#core/documents/stand-in.ts';
import type { Workspace } from '#core/project/index.ts';
import { unrecordedRun, startNames, type Ports, type StartNames } from '#core/run/index.ts';
import { createService, type Service } from '#core/stand-in/index.ts';
import type { Engine, ProjectFolder } from '../index.ts';
import { standInPorts } from './ports.ts';

/** A stand-in that is tried out: it sends nothing, and what it remembers is its own. @throws HeronError dataset.*, definition.* */
export async function trialService(
	spec: StandIn,
	{ workspace, start, ports }: { workspace: Workspace; start: StartNames; ports: Ports }
): Promise<Service> {
	const detail = 'it would be passed on: nothing is sent while it is tried';
	const own = standInPorts(ports, () => Promise.reject(new HeronError('send.failed', { detail })));
	const { env, secret, run } = start.names;
	const service = createService(spec, { workspace, names: { env, secret, run }, broken: start.broken, ports: own });
	await service.ready();
	return service;
}

/** Stand-ins of a folder, to be tried out; those that cannot begin are left out. */
export async function trialServices(
	engine: Engine,
	{ workspace, readFile, data }: Pick<ProjectFolder, 'workspace' | 'readFile' | 'data'>,
	list: readonly StandIn[],
	{ environment, secrets }: { environment: string; secrets: Record<string, string> }
): Promise<Service[]> {
	const out: Service[] = [];
	for (const spec of list) {
		const ports = engine.ports({ seed: spec.seed, readFile, data });
		const given = { set: {}, secrets, run: unrecordedRun(environment, Date.now()) };
		try {
			const start = await startNames(workspace, environment, given, ports);
			out.push(await trialService(spec, { workspace, start, ports }));
		} catch (error) {
			if (!(error instanceof HeronError)) throw error;
		}
	}
	return out;
}
