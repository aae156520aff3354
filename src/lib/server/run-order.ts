import { HeronError, type Problem } from '#core/errors.ts';
import { counted } from '#core/messages.ts';
import type { Suite } from '#core/documents/suite.ts';
import {
	assertAllowed,
	blockingProblems,
	choose,
	titleOf,
	type Chosen,
	type RowsChoice,
	type RunInfo
} from '#core/run/index.ts';
import type { RunOrder } from '#server/engine/protocol.ts';
import type { Store } from '#server/store/index.ts';
import { randomInt, randomUUID } from 'node:crypto';
import { projectOfRun } from './history.ts';
import { outputsOf } from './kept-tokens.ts';
import type { OpenProject, Projects } from './projects.ts';

export interface RunRequest {
	targets: string[];
	only: string[];
	environment: string;
	parallel: number;
	stopAfter: number;
	rows: RowsChoice;
	/** For the same made-up data and drawn rows again. */
	seed?: number;
	/** Somebody has seen what may change something in a guarded environment. */
	allowGuarded: boolean;
	/** The id that it gets; left out: a new one. */
	id?: string;
	/** What starts it, where that is nobody. */
	by?: string;
	/** The revision of the project, by name or number; left out: what its suite says, or the newest. */
	revision?: string;
}

/** A run that was asked for and may begin. */
export interface Ordered {
	/** The project as it was at the revision that is run. */
	project: OpenProject;
	/** Single steps are sent by hand. */
	byHand: boolean;
	suite: Suite | undefined;
	order: RunOrder;
}

/** What is run, of what was asked for. */
interface Selected {
	scenarios: Chosen[];
	suite: Suite | undefined;
	environment: string;
	title: string;
}

/** Reads what was asked for. @throws HeronError what keeps it from starting */
export async function orderOf(
	stores: Pick<Store, 'runs' | 'vault' | 'history' | 'files'>,
	projects: Projects,
	given: OpenProject,
	request: RunRequest
): Promise<Ordered> {
	const byHand = request.only.length > 0;
	const { revision, targets } = request;
	const taken = await projectOfRun(stores, projects, given, { targets: byHand ? [] : targets, revision });
	const { project } = taken;
	const selected = selectedIn(project, request);
	const { scenarios, suite, environment } = selected;
	const single = scenarios.length === 1 ? scenarios[0]! : undefined;
	const outputs = byHand && single ? await outputsOf(stores, project.name, single.key, environment) : {};
	const order: RunOrder = {
		outputs,
		targets,
		only: request.only,
		rows: request.rows,
		environment,
		set: {},
		parallel: request.parallel || suite?.parallel || 1,
		stopAfter: request.stopAfter,
		retries: suite?.retries ?? 0,
		info: infoOf(project, selected, request, taken)
	};
	return { project, byHand, suite, order };
}

function refuse(problems: Problem[]): void {
	if (problems.length === 0) return;
	throw new HeronError('project.invalid', { count: counted(problems.length, 'problem') }, { problems });
}

/** @throws HeronError project.*, request.notFound, run.* */
function selectedIn(
	{ workspace }: OpenProject,
	{ targets, only, environment: asked, allowGuarded }: RunRequest
): Selected {
	const look = (): Selected => {
		const chosen = choose(workspace, { targets });
		const { scenarios, suite } = chosen;
		if (scenarios.length === 0) throw new HeronError('project.empty');
		const environment = asked || suite?.environment || workspace.project.environment;
		if (environment && !workspace.environments.has(environment))
			throw new HeronError('request.notFound', { what: `the environment "${environment}"` });
		return { scenarios, suite, environment, title: titleOf(workspace, targets, chosen) };
	};
	let selected: Selected;
	try {
		selected = look();
	} catch (error) {
		// what is not there may be in a file that cannot be read
		refuse(workspace.problems);
		throw error;
	}
	const { scenarios, environment } = selected;
	refuse(blockingProblems(workspace, { ...selected, targets, only }));
	assertAllowed(workspace, scenarios, environment, { only, allowed: allowGuarded, how: '' });
	return selected;
}

const infoOf = (
	{ name }: OpenProject,
	{ title, environment, suite }: Selected,
	{ id, seed, targets, by }: RunRequest,
	{ revision, pinned }: Awaited<ReturnType<typeof projectOfRun>>
): RunInfo => ({
	id: id ?? randomUUID(),
	startedAt: Date.now(),
	title,
	project: name,
	environment,
	suite: suite?.name ?? '',
	...{ job: '', build: '', commit: '', branch: '' },
	seed: seed ?? randomInt(1, 2 ** 31),
	targets,
	...(by === undefined ? {} : { by }),
	...(revision > 0 ? { revision } : {}),
	...(pinned === undefined ? {} : { pinned })
});
