import { counted, messageOf } from '#core/messages.ts';
import { standInsOff } from '#core/run/index.ts';
import type { App } from './app.ts';
import type { OpenProject } from './projects.ts';

/** Grants that somebody has to be there for. */
const BY_HAND = new Set<unknown>(['authorization-code', 'device-code']);

/** What does not resolve in an environment, the variables that do, and how long its tokens live. */
export async function resolvedIn({ ask, sealedOf, store }: App, project: OpenProject, environment: string) {
	const { problems, values } = await ask('resolve', project, environment, { environment });
	const { secrets, tokens, standIns = {} } = await sealedOf(project, environment);
	const locked = (await store.vault.list(project.name, 'secret')).filter((one) => !one.readable);
	return {
		environment,
		// a stand-in that does not run is no value that is missing
		problems: problems.filter(({ code }) => code !== 'run.standIn'),
		standInsOff: standInsOff(project.workspace, environment, { standIns }),
		values,
		secrets: Object.keys(secrets),
		tokens: tokens
			.filter(({ credential }) => project.workspace.credentials.has(credential))
			.map(({ credential, token }) => ({
				credential,
				endsAt: token.endsAt,
				receivedAt: token.receivedAt,
				renewable:
					Boolean(token.reply.refresh_token) || !BY_HAND.has(project.workspace.credentials.get(credential)!.value.grant)
			})),
		vaultTrouble: locked.length > 0 ? messageOf('vault.key', { count: counted(locked.length, 'secret') }) : ''
	};
}
