import type { Step } from '../steps/index.ts';
import { parseJson, type Json } from '../model/json.ts';
import { isJsonType, mediaType } from '../model/reply.ts';
import { fragmentOf } from '../openapi/index.ts';
import { callPlaceOf, type Workspace } from '../project/index.ts';
import { allScenarios, type Chosen, type StepResult } from '../run/index.ts';
import { parseSoap, readFault } from '../soap/index.ts';
import { madeCall } from './call.ts';
import type { Coverage } from '../tallies/index.ts';
import { Collector } from './collector.ts';
import { credentialKind, soapValues } from './planned.ts';

/** A step that was carried out, as far as its calls go. */
export type MadeStep = Pick<StepResult, 'scenario' | 'step' | 'exchanges'>;

/** Collects what the calls of results touched. */
export function createMadeCollector(workspace: Workspace): { take(result: MadeStep): void; result(): Coverage } {
	const collector = new Collector(workspace);
	const steps = new Map<string, { chosen: Chosen; step: Step }>(
		allScenarios(workspace).flatMap((chosen) =>
			chosen.scenario.steps.map((step): [string, { chosen: Chosen; step: Step }] => [
				`${chosen.key}/${step.id}`,
				{ chosen, step }
			])
		)
	);
	return {
		take({ scenario, step: id, exchanges }) {
			const at = `${scenario}/${id}`;
			const known = steps.get(at);
			const send = known?.step.send;
			const soap = send?.body?.kind === 'soap' ? parseSoap(send.body.value) : undefined;
			const connection = known && workspace.connections.get(send?.connection || known.chosen.connection);
			for (const { method, url, requestHeaders, requestBody, reply, leg, came } of exchanges) {
				// what fetched a token was another service's; what came was no call of ours
				if (leg || came || !URL.canParse(url)) continue;
				if (soap) {
					const asked = new TextDecoder().decode(requestBody);
					collector.addSoap({
						...{ step: at, ...soap },
						answer: reply && soapAnswer(new TextDecoder().decode(reply.body)),
						// of what travels in several parts the file says what was asked
						values: (model) => soapValues(model, { ...soap, envelope: asked }) ?? soapValues(model, soap)
					});
					continue;
				}
				collector.add(
					madeCall({
						...{ step: at, method, url, headers: requestHeaders, status: reply?.status },
						fragment: send && fragmentOf(send.target),
						base: (known && callPlaceOf(workspace, known.chosen.collection, known.step)?.base) ?? '',
						certificate:
							connection?.tls?.client !== undefined ||
							(known && send && credentialKind(workspace, known.chosen, send, '')) === 'client-certificate',
						hasBody: requestBody.length > 0,
						body: isJsonType(mediaType(requestHeaders).type) ? dataOf(requestBody) : undefined
					}),
					connection?.definition
				);
			}
		},
		result: () => collector.result()
	};
}

/** How an envelope answers; undefined for a fault that tells no element. */
function soapAnswer(text: string): string | undefined {
	const fault = readFault(text);
	if (!fault) return 'answer';
	const detail = /<(?:[\w.-]+:)?([\w.-]+)/.exec(fault.detail[0] ?? '')?.[1];
	return detail && `fault ${detail}`;
}

function dataOf(bytes: Uint8Array): Json | undefined {
	try {
		return parseJson(new TextDecoder().decode(bytes));
	} catch {
		return undefined;
	}
}
