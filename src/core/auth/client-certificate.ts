import { HeronError } from '../errors.ts';
import { clientIdentity, plainTransport } from '../model/transport.ts';
import { textIn, type CredentialKind } from './kind.ts';

export const clientCertificate: CredentialKind = {
	key: 'client-certificate',
	label: 'Client certificate',
	standard: 'RFC 8446 section 4.4.2, RFC 8705',
	doc: 'A certificate that is shown in the TLS handshake: a PEM pair, or a PKCS#12 file with its passphrase.',
	fields: [
		{ name: 'certificate', label: 'Certificate', doc: 'A PEM file of the project.', form: 'text' },
		{ name: 'key', label: 'Private key', doc: 'A PEM file of the project, or a secret that holds PEM.', form: 'text' },
		{ name: 'pkcs12', label: 'PKCS#12 file', doc: 'Instead of the pair.', form: 'text' },
		{ name: 'passphrase', label: 'Passphrase', doc: 'Opens the key or the PKCS#12 file.', form: 'text', secret: true }
	],
	example: { kind: 'client-certificate', pkcs12: 'files/warden.p12', passphrase: '{$secret.wardenPassphrase}' },
	check(value, report) {
		if (value.pkcs12 && (value.certificate || value.key)) report([], 'either pkcs12, or certificate and key');
		else if (!value.pkcs12 && !(value.certificate && value.key))
			report([], 'a certificate with its key is wanted, or a pkcs12 file');
	},
	open(given, { name, ports, learn }) {
		const [certificate, key, pkcs12, passphrase] = ['certificate', 'key', 'pkcs12', 'passphrase'].map((field) =>
			textIn(given, field)
		) as [string, string, string, string];
		const client = clientIdentity({ certificate, key, pkcs12, passphrase }, (path) => ports.readFile?.(path));
		if (client.key) learn(`${name}.key`, client.key);
		return {
			async apply(request) {
				if (!request.url.startsWith('https:'))
					throw new HeronError('auth.wrong', {
						name,
						detail: 'a client certificate is shown in TLS: the address has to start with https://'
					});
				const transport = request.transport ?? plainTransport();
				const tls = { ...transport.tls, client };
				return {
					...request,
					transport: { ...transport, tls, key: `${transport.key} ${name} ${certificate}${pkcs12}` }
				};
			}
		};
	}
};
