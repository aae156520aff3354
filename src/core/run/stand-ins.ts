import { HeronError } from '../errors.ts';
import { DEFAULT_REDIRECTS, DEFAULT_TIMEOUTS, standInVariable } from '../documents/connection.ts';
import { isObject, parseJson, type JsonObject } from '../model/json.ts';
import type { HeaderList } from '../model/reply.ts';
import { plainTransport } from '../model/transport.ts';
import type { Workspace } from '../project/index.ts';
import type { StepContext } from './context.ts';
import { calledScenario, type Chosen, type StartNames } from './plan.ts';
import type { PreparedRequest } from './ports.ts';
import { stepNames } from '../steps/index.ts';
import { referencesIn, type Reference } from '../values/index.ts';

/** Asks a stand-in something below its own path; undefined where it says nothing. @throws HeronError send.* */
export async function askOwn(
	address: string,
	[method, path]: [method: string, path: string],
	query: Record<string, string>,
	{ ports, signal }: Pick<StepContext, 'ports' | 'signal'>
): Promise<JsonObject | undefined> {
	const url = new URL(`${address.replace(/\/+$/, '')}/.stand-in/${path}`);
	url.search = new URLSearchParams(query).toString();
	const transport = plainTransport();
	const headers: HeaderList = [
		['Host', url.host],
		...(method === 'POST' ? [['Content-Length', '0'] as [string, string]] : []),
		['Connection', 'keep-alive']
	];
	const request: PreparedRequest = {
		...{ method, url: url.href, headers, origins: headers.map(() => 'added' as const), body: new Uint8Array() },
		...{ timeouts: DEFAULT_TIMEOUTS, redirects: DEFAULT_REDIRECTS, forgetCookies: true },
		// its certificate is made when it starts
		transport: { ...transport, key: 'stand-in', tls: { ...transport.tls, verify: false } }
	};
	const { exchanges, error } = await ports.send(request, ports.openSession(), signal);
	const reply = exchanges.at(-1)?.reply;
	if (!reply) throw error ?? new HeronError('send.failed', { detail: 'the stand-in does not answer' });
	const text = new TextDecoder().decode(reply.body);
	const value: unknown = text ? parseJson(text) : undefined;
	if (reply.status >= 300)
		throw new HeronError('send.failed', {
			detail: `the stand-in answers ${reply.status}${isObject(value) ? `: ${String(value.detail ?? '')}` : ''}`
		});
	return isObject(value) ? (value as JsonObject) : undefined;
}

/** Those of which an expression takes the address: `$env.standIns.NAME`. */
const addressed = ({ standIns }: Workspace, references: readonly Reference[]): string[] =>
	references.flatMap(({ root, name, rest: [standIn = ''] }) =>
		root === 'env' && name === 'standIns' && standIns.has(standIn) ? [standIn] : []
	);

/** Stand-ins of which a variable holds the address. */
export const standInsInVariables = (workspace: Workspace, environment: string): string[] =>
	addressed(
		workspace,
		referencesIn([workspace.project.variables, workspace.environments.get(environment)?.variables ?? {}])
	);

/** Names of the stand-ins that a scenario, and those that it calls, have to do with: calls go there, come there, or take the address. */
export function standInsNeeded(workspace: Workspace, chosen: Chosen, environment: string): Set<string> {
	const stoodIn = workspace.environments.get(environment)?.standIns ?? {};
	const out = new Set<string>();
	const seen = new Set<string>();
	const look = (one: Chosen): void => {
		if (seen.has(one.key)) return;
		seen.add(one.key);
		for (const step of one.scenario.steps) {
			const { send, receive, call } = step;
			const by = send && stoodIn[send.connection || one.connection];
			if (by) out.add(by);
			if (receive) out.add(receive.from);
			for (const name of addressed(workspace, stepNames(step))) out.add(name);
			const called = call && calledScenario(workspace, one, call.target);
			if (called) look(called);
		}
	};
	look(chosen);
	return out;
}

/** Stand-ins that begin anew, as their files say: with the run, or with each scenario. */
export interface Resets {
	/** Those that begin with the run. @throws HeronError send.* */
	atStart(scenarios: readonly Chosen[]): Promise<void>;
	/**
	 * Carries out a scenario after its stand-ins were reset; another one that has to do with one of them waits until it is over.
	 * @throws HeronError send.*
	 */
	before<T>(chosen: Chosen, act: (reset: () => Promise<void>) => Promise<T>): Promise<T>;
}

/** Has stand-ins begin anew before a run or a scenario, where they ask for it. */
export function createResets(
	{ workspace, start, environment }: { workspace: Workspace; start: StartNames; environment: string },
	tools: Pick<StepContext, 'ports' | 'signal'>
): Resets {
	const addressOf = (name: string): string | undefined => {
		const address = start.names.env[standInVariable(name)];
		return typeof address === 'string' ? address : undefined;
	};
	const named = (chosen: Chosen, when: 'run' | 'scenario'): string[] =>
		[...standInsNeeded(workspace, chosen, environment)].filter(
			(name) => workspace.standIns.get(name)?.reset === when && addressOf(name) !== undefined
		);
	const reset = async (names: readonly string[]): Promise<void> => {
		for (const name of names) await askOwn(addressOf(name)!, ['POST', 'reset'], {}, tools);
	};
	/** What the scenario that came last to a stand-in ends with. */
	const last = new Map<string, Promise<unknown>>();
	return {
		atStart: (scenarios) => reset([...new Set(scenarios.flatMap((one) => named(one, 'run')))]),
		async before(chosen, act) {
			const names = named(chosen, 'scenario');
			if (names.length === 0) return act(() => Promise.resolve());
			const earlier = names.map((name) => last.get(name));
			const own = Promise.all(earlier).then(() => act(() => reset(names)));
			const over = own.catch(() => {});
			for (const name of names) last.set(name, over);
			return own;
		}
	};
}
