import type { HeronError } from '#core/errors.ts';
import { relays, type Transport } from '#core/model/transport.ts';
import {
	certificateRows,
	daysLeft,
	found,
	notNeeded,
	passed,
	STAGES,
	type Stage,
	type StageKey
} from '#core/reach/index.ts';
import net from 'node:net';
import { distrustWords, type SocketMarks } from '../send/index.ts';
import { acceptedSuites, acceptedVersions } from './probe.ts';

/** The way to the other side. */
export interface Way {
	host: string;
	secure: boolean;
	/** `host:port`; empty without one. */
	proxy: string;
	transport: Transport | undefined;
}

const SOON_DAYS = 21;

/** Stages of the opener that are behind us, up to the one that failed. */
export function openedStages(passedMarks: SocketMarks, way: Way, failed?: StageKey): Stage[] {
	const { transport, host, secure, proxy: proxyName } = way;
	const { start, name: named_, connect, proxy: through, tls: secured, facts, peer } = passedMarks;
	const proxied = transport?.proxy;
	const list: Stage[] = [];
	const far = (key: StageKey) => failed !== undefined && STAGES.indexOf(key) >= STAGES.indexOf(failed);
	const asked = proxied?.host ?? host;
	if (!far('name'))
		list.push(
			net.isIP(asked)
				? notNeeded('name', `${asked} is an address already`)
				: !peer
					? notNeeded('name', `${asked}, the proxy`)
					: passed('name', named_ - start, `${asked} is ${peer.replace(/:\d+$/, '')}${proxied ? ', the proxy' : ''}`)
		);
	// a proxy that does not answer is told as the proxy's, not as the connection's
	if (!far('connection') && !connect) list.push(notNeeded('connection', 'by way of the proxy'));
	else if (!far('connection'))
		list.push(
			passed('connection', connect - (named_ || start), `port ${peer.slice(peer.lastIndexOf(':') + 1)} answers`)
		);
	if (!far('proxy'))
		list.push(
			proxied
				? passed(
						'proxy',
						through ? through - connect : 0,
						`${proxyName} ${relays(proxied, secure) ? 'is asked for each call' : 'lets us through'}`
					)
				: notNeeded('proxy', 'none, directly')
		);
	if (!far('tls')) {
		if (!secure) list.push(notNeeded('tls', 'plain HTTP: what is sent can be read on the way'));
		else list.push(tlsStage(secured - (through || connect), facts!, host));
	}
	return list;
}

function tlsStage(ms: number, facts: NonNullable<SocketMarks['facts']>, host: string): Stage {
	const now = Date.now();
	const rows = certificateRows(facts, now);
	const [leaf] = facts.chain;
	const more = { ms, facts: rows, chain: facts.chain };
	if (facts.distrust)
		return found('tls.notVerified', { detail: distrustWords(facts.distrust, facts.chain, host) }, more);
	const soon = facts.chain.find((one) => one.validTo > now && daysLeft(one, now) < SOON_DAYS);
	const ended = facts.chain.find((one) => one.validTo <= now);
	const date = (time: number) => new Date(time).toISOString().slice(0, 10);
	if (ended) return found('tls.spareEnded', { name: ended.subject, date: date(ended.validTo) }, more);
	if (soon) return found('tls.endsSoon', { days: daysLeft(soon, now), date: date(soon.validTo) }, more);
	return {
		...passed('tls', ms, `${facts.version}, ${facts.cipher}${leaf ? `, ${daysLeft(leaf, now)} days left` : ''}`, rows),
		chain: facts.chain
	};
}

/** What a server takes, beyond what was agreed on: versions, and suites where they are asked for. */
export async function accepts(
	place: { host: string; port: number; transport: Transport | undefined },
	suites: boolean
): Promise<Stage['facts']> {
	const versions = await acceptedVersions(place);
	const rows: Stage['facts'] = [['accepts', versions.map((version) => `TLS ${version}`).join(', ')]];
	if (suites)
		for (const version of versions) rows.push([`TLS ${version}`, (await acceptedSuites(place, version)).join(', ')]);
	return versions.length > 0 ? rows : [];
}

/** The first stage that was not reached. */
export function failedStage(marks: SocketMarks, error: HeronError): StageKey {
	if (error.code === 'tls.identity' || error.code === 'tls.pem') return 'tls';
	if (error.code === 'send.proxy' || error.code === 'send.proxyAuth') return 'proxy';
	if (!marks.connect)
		return error.code === 'send.name' || (error.code === 'send.timeout' && error.values.phase === 'finding the name')
			? 'name'
			: 'connection';
	return error.values.phase === 'asking the proxy' ? 'proxy' : 'tls';
}
