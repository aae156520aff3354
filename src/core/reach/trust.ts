import type { CertificateFacts, TlsFacts } from '../model/exchange.ts';
import { settingFix, tlsSettings, trustFix } from './fixes.ts';
import { found, type Fix, type Stage } from './stage.ts';
import type { ReachTarget } from './target.ts';

const DAY = 86_400_000;
const day = (time: number): string => new Date(time).toISOString().slice(0, 10);
/** Whole days until a certificate ends; below 0 when it has ended. @param now in milliseconds since 1970 */
export const daysLeft = (certificate: CertificateFacts, now: number): number =>
	Math.trunc((certificate.validTo - now) / DAY);

const daysWords = (one: CertificateFacts, now: number): string => {
	const left = daysLeft(one, now);
	return one.validTo > now ? `${left} days left` : `ended ${-left} days ago`;
};

/** Facts of the server's certificate. */
export function certificateRows(tls: TlsFacts, now: number): Stage['facts'] {
	const [leaf] = tls.chain;
	if (!leaf) return [];
	return [
		['for', leaf.names.join(', ') || leaf.subject],
		['issued by', leaf.issuer],
		['valid', `${day(leaf.validFrom)} to ${day(leaf.validTo)}, ${daysWords(leaf, now)}`],
		['fingerprint', leaf.fingerprint],
		...tls.chain.slice(1).map((one): [string, string] => ['vouched by', `${one.subject}, ${daysWords(one, now)}`])
	];
}

/**
 * Whether a certificate that came alone was probably signed by an intermediate authority: it says where that one’s
 * certificate is to be had (RFC 5280 section 4.2.2.1), or the connection trusts authorities, and the signer is none of them.
 */
function isBelowAnother(target: ReachTarget, leaf: CertificateFacts): boolean {
	const { authorities } = tlsSettings(target);
	return leaf.issuerAt === true || (Array.isArray(authorities) && authorities.length > 0);
}

/** Why the certificate of the other side is not trusted. */
export function judgeTrust(target: ReachTarget, reason: string, tls: TlsFacts, now: number, ms: number): Stage {
	const { chain } = tls;
	const [leaf] = chain;
	const top = chain.at(-1);
	const facts = certificateRows(tls, now);
	const more = (fixes: Fix[]) => ({ ms, facts, fixes, chain });
	switch (reason) {
		case 'CERT_HAS_EXPIRED': {
			// it may be one further up
			const ended = chain.find((one) => one.validTo < now) ?? leaf!;
			return found(
				'tls.expired',
				{ date: day(ended.validTo), days: Math.max(0, Math.floor((now - ended.validTo) / DAY)) },
				more([])
			);
		}
		case 'CERT_NOT_YET_VALID':
			return found(
				'tls.notYet',
				{ date: day(leaf!.validFrom), now: new Date(now).toISOString().slice(0, 16).replace('T', ' ') },
				more([])
			);
		case 'ERR_TLS_CERT_ALTNAME_INVALID': {
			const names = leaf!.names.filter((name) => !name.includes('*'));
			const fixes = names
				.slice(0, 3)
				.flatMap((name) => settingFix(target, `Use the name ${name}`, ['tls', 'name'], name));
			return found(
				'tls.wrongName',
				{ names: leaf!.names.join(', ') || leaf!.subject, host: String(tlsSettings(target).name ?? target.host) },
				more(fixes)
			);
		}
		case 'DEPTH_ZERO_SELF_SIGNED_CERT':
			return found('tls.selfSigned', {}, more(trustFix(target, leaf, 'Trust this certificate here')));
		default:
			// OpenSSL has several words for it: what was sent along decides
			if (chain.length === 1 && isBelowAnother(target, leaf!))
				return found(
					'tls.missingIntermediate',
					{ issuer: leaf!.issuer },
					more(trustFix(target, leaf, 'Trust this certificate here'))
				);
			return found(
				'tls.unknownAuthority',
				{ issuer: top!.issuer },
				more(trustFix(target, top, chain.length === 1 ? 'Trust this certificate here' : 'Trust this authority here'))
			);
	}
}
