import type { Ports } from '#core/run/index.ts';
import type { StandInPorts } from '#core/stand-in/index.ts';

/** What a stand-in uses of the world outside, by the ports of the engine. */
export const standInPorts = (ports: Ports, send: StandInPorts['send']): StandInPorts =>
	Object.assign(ports as unknown as StandInPorts, {
		send,
		verifySignature: (async (given) =>
			(await import('./signature.ts')).verifySignature(given)) satisfies StandInPorts['verifySignature']
	});
