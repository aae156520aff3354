import type { HeronError } from '../errors.ts';
import { versionRange, type TlsVersion } from '../model/transport.ts';
import { settingFix, tlsSettings } from './fixes.ts';
import { found, type Stage } from './stage.ts';
import type { ReachTarget } from './target.ts';
import { sentence } from './words.ts';

const rangeOf = (target: ReachTarget): [string, string] => {
	const { min, max } = tlsSettings(target);
	const text = (given: unknown) => (given === undefined ? '' : String(given)) as TlsVersion | '';
	const range = versionRange({ min: text(min), max: text(max) });
	return [range.min, range.max];
};
/** Whether one of the versions is among those that we speak. */
export const inRange = (target: ReachTarget, versions: string[]): boolean => {
	const [low, high] = rangeOf(target);
	return versions.some((version) => version >= low && version <= high);
};

/** Which versions of TLS a server accepts, as a fact to show; none where it is not known. */
export const acceptsFact = (versions: string[] | undefined): Stage['facts'] =>
	versions && versions.length > 0 ? [['accepts', versions.map((version) => `TLS ${version}`).join(', ')]] : [];

/** Which versions each side speaks, and that none is common. */
export function judgeVersion(target: ReachTarget, versions: string[], error: HeronError, ms: number): Stage {
	const [low, high] = rangeOf(target);
	const spoken = low === high ? `TLS ${low}` : `TLS ${low} to ${high}`;
	if (versions.length === 0)
		return found(
			'tls.version',
			{
				detail: `We speak ${spoken}, and the server takes no version that we could try. ${sentence(error.values.detail)}`
			},
			{ ms }
		);
	const [highest] = [...versions].sort().reverse();
	const lower = highest! < low;
	const fixes = settingFix(
		target,
		lower ? `Allow TLS ${highest} here` : `Raise to TLS ${versions[0]!}`,
		['tls', lower ? 'min' : 'max'],
		lower ? highest! : versions[0]!
	);
	const detail = `We speak ${spoken}, the server only ${versions.map((version) => `TLS ${version}`).join(', ')}${lower ? '. Versions before 1.2 are not safe: better its owner raises it' : ''}`;
	return found('tls.version', { detail }, { ms, facts: acceptsFact(versions), fixes });
}
