import { attributeOf, elementsOf, namespaceOf, type XmlElement } from '../tree.ts';
import type { WsdlDocument } from './types.ts';

const POLICY = /ws-policy|\/policy$|ns\/ws-policy/;
const WANTS: Record<string, string> = {
	UsernameToken: 'user name and password',
	HashPassword: 'password digest',
	IncludeTimestamp: 'timestamp',
	X509Token: 'X.509 certificate',
	SamlToken: 'SAML token',
	KerberosToken: 'Kerberos ticket',
	SignedParts: 'signature',
	EncryptedParts: 'encryption',
	TransportBinding: 'HTTPS',
	OptimizedMimeSerialization: 'MTOM',
	UsingAddressing: 'WS-Addressing',
	Addressing: 'WS-Addressing'
};

/** What the policies at a node ask for (WS-Policy 1.2 and 1.5, WS-SecurityPolicy), as far as their names tell. */
export function wantsOf(node: XmlElement, documents: readonly WsdlDocument[]): string[] {
	const out: string[] = [];
	const look = (at: XmlElement, deep: number): void => {
		if (Object.hasOwn(WANTS, at.local) && /polic|addressing/i.test(at.namespace)) out.push(WANTS[at.local]!);
		if (deep < 50) for (const child of elementsOf(at)) look(child, deep + 1);
	};
	const policies = documents.flatMap(({ root }) => elementsOf(root)).filter((one) => one.local === 'Policy');
	const references = elementsOf(node).flatMap((one) =>
		one.local === 'PolicyReference' ? [attributeOf(one, 'URI') ?? ''] : []
	);
	const named = (attributeOf(node, 'PolicyURIs', namespaceOf(node, 'wsp') ?? '') ?? '').split(/\s+/).filter(Boolean);
	for (const child of elementsOf(node))
		if ((child.local === 'Policy' && POLICY.test(child.namespace)) || child.local === 'UsingAddressing') look(child, 0);
	for (const id of [...references, ...named]) {
		const found = policies.find((one) =>
			one.attributes.some(({ local, value }) => local === 'Id' && `#${value}` === id)
		);
		if (found) look(found, 0);
	}
	return out;
}
