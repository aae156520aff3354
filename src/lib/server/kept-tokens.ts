import { HeronError } from '#core/errors.ts';
import { parseJson, writeJson, type JsonObject } from '#core/model/json.ts';
import { isMasked } from '#core/model/mask.ts';
import type { KeptTokens } from '#core/run/index.ts';
import type { Outputs } from '#server/engine/protocol.ts';
import type { Store, Vault } from '#server/store/index.ts';

// Tokens that steps kept: results and pages show a mask, the vault holds the newest of each step.

interface Place {
	environment: string;
	/** `collection/scenario` */
	scenario: string;
}
const nameOf = (scenario: string, step: string) => `${scenario} ${step}`;

async function read(vault: Vault, project: string, { environment, scenario }: Place, step: string) {
	const text = await vault.readOne(project, 'kept', environment, nameOf(scenario, step));
	return text === undefined ? undefined : (parseJson(text) as unknown as KeptTokens);
}

/** Seals what the steps of a scenario kept. */
export async function keepTokens(
	vault: Vault,
	project: string,
	{ environment, scenario }: Place,
	kept: Record<string, KeptTokens>
): Promise<void> {
	for (const [step, { at, values }] of Object.entries(kept))
		await vault.write(project, 'kept', environment, nameOf(scenario, step), writeJson({ at, values }));
}

/** What the steps of a scenario kept when they last ran in an environment, also what results hide. */
export async function outputsOf(
	{ runs, vault }: Pick<Store, 'runs' | 'vault'>,
	project: string,
	scenario: string,
	environment: string
): Promise<Outputs> {
	const steps = await runs.latest(project, scenario.slice(0, scenario.indexOf('/')), environment);
	const outputs: Outputs = {};
	for (const { step, kept, startedAt } of steps.filter((one) => one.scenario === scenario)) {
		outputs[step] = kept;
		if (!isMasked(writeJson(kept))) continue;
		const sealed = await read(vault, project, { environment, scenario }, step);
		// of one time the step ran: what was kept at another does not belong to the rest
		if (sealed?.at === startedAt) outputs[step] = { ...kept, ...sealed.values };
	}
	return outputs;
}

/**
 * A token for somebody's eyes; that it was shown is noted.
 * @param at when the step began that kept it
 * @throws HeronError request.notFound
 */
export async function revealKept(
	vault: Vault,
	project: string,
	{ step, name, at, ...place }: Place & { step: string; name: string; at: number }
): Promise<unknown> {
	const sealed = await read(vault, project, place, step);
	if (!sealed || sealed.at !== at || !Object.hasOwn(sealed.values, name))
		throw new HeronError('request.notFound', {
			what: 'this value: the newest that a step kept can be shown, unless it came from another machine; send the step, and look again'
		});
	await vault.noteShown(project, place.environment, `${place.scenario} ${step}.${name}`);
	return (sealed.values as JsonObject)[name];
}
