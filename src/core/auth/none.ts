import type { CredentialKind } from './kind.ts';

export const none: CredentialKind = {
	key: 'none',
	label: 'None',
	standard: '',
	doc: 'Sends nothing that proves who we are, whatever the connection would send.',
	fields: [],
	example: { kind: 'none' },
	open: () => ({ apply: async (request) => request })
};
