import type { CredentialKind } from '../../../src/core/auth/kind.ts';

export const madeUp: CredentialKind = {
	key: 'flag',
	label: 'Flag',
	standard: 'none',
	doc: 'A boat shows its flag.',
	fields: [{ name: 'colours', label: 'Colours', doc: 'What it shows.', form: 'text', secret: true, required: true }],
	example: { kind: 'flag', colours: '{$secret.colours}' },
	open: ({ colours }) => ({
		apply: async (request) => ({ ...request, headers: [...request.headers, ['Flag', String(colours)]] })
	})
};
