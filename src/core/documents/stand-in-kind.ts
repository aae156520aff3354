import { didYouMean } from '../messages.ts';
import { SIGNED } from '../model/ws-security.ts';
import { hasExpression } from '../values/index.ts';
import { isObject } from '../model/json.ts';
import type { DocumentKind } from './kind.ts';
import { choice, duration, isHttp, listOf, record, shaped, text, version, whole } from '../model/shape.ts';
import { STORE } from './stand-in.ts';
import { ownCall, fault, answer, store, named } from './stand-in-parts.ts';

export const standIn: DocumentKind = {
	name: 'stand-in',
	folder: 'stand-ins',
	doc: 'A simulated service: what comes in, and what is answered.',
	schema: record(
		{
			heron: version,
			title: text('The name that people read.'),
			port: whole('The port; any that is free when left out.', 0, 65_535),
			base: shaped({ type: 'string', description: 'What stands before all paths.' }, (value, report) => {
				if (typeof value !== 'string' || !/^(\/[^/?#\s{}]+)*\/?$/.test(value))
					report([], 'a path is wanted, such as /v1');
			}),
			tls: shaped(
				{
					description: 'HTTPS, with a certificate that is made for it; client asks for one of the caller.',
					anyOf: [
						{ type: 'boolean' },
						{ type: 'object', properties: { client: { type: 'boolean' } }, additionalProperties: false }
					]
				},
				(value, report) => {
					if (typeof value === 'boolean') return;
					if (!isObject(value)) return report([], 'true, or { client: true } is wanted');
					for (const key of Object.keys(value))
						if (key !== 'client') report([key], `unknown key "${key}"${didYouMean(key, ['client'])}`);
				}
			),
			cors: shaped(
				{
					description: 'Pages of other origins may read its answers: of all (true), or of those that are listed.',
					anyOf: [{ type: 'boolean' }, { type: 'array', items: { type: 'string' }, minItems: 1 }]
				},
				(value, report) => {
					if (typeof value === 'boolean') return;
					const fits = (one: unknown) => typeof one === 'string' && isHttp(one) && new URL(one).origin === one;
					if (!Array.isArray(value) || value.length === 0 || !value.every(fits))
						report([], 'true, or a list of origins is wanted, such as [http://localhost:3000]');
				}
			),
			definition: text('A file in definitions/ that its answers, and what is asked, are held against.'),
			wsSecurity: record(
				{
					user: text('Who it has to be from.'),
					password: text('The password of the user, by reference.'),
					passwordType: choice(['digest', 'text'], 'How the password has to come; either when left out.'),
					timestamp: duration('A Timestamp is wanted, and may be so old.'),
					certificate: shaped(
						{
							anyOf: [{ const: true }, { type: 'string' }],
							description:
								'A signature is wanted: by any certificate (true), by that of a PEM file, or by one that it has signed.'
						},
						(value, report) => {
							if (value !== true && !(typeof value === 'string' && value.trim()))
								report([], 'true, or a PEM file of the project is wanted, such as files/clerk.pem');
						}
					),
					sign: shaped(
						{
							anyOf: [{ type: 'array', items: { enum: [...SIGNED] } }, { type: 'string' }],
							description: `What the signature has to cover: ${SIGNED.join(', ')}.`
						},
						(value, report) => {
							const list = Array.isArray(value) ? (value as unknown[]) : String(value as string).split(/[\s,]+/);
							for (const part of list)
								if (!SIGNED.includes(part as never)) report([], `one of ${SIGNED.join(', ')} is wanted`);
						}
					)
				},
				{},
				(value, report) => {
					if (value.user === undefined && value.timestamp === undefined && value.certificate === undefined)
						report([], 'a user with a password, a timestamp, or a certificate is wanted');
					if (value.password !== undefined && value.user === undefined)
						report(['password'], 'a password goes with its user');
					if (value.sign !== undefined && value.certificate === undefined)
						report(['sign'], 'what is signed goes with a certificate');
				}
			),
			reset: choice(['run', 'scenario'], 'When it is back to what it held at first by itself; never when left out.'),
			seed: whole('The seed of what is left to chance.'),
			stores: named(store, 'Things that are remembered, by name.'),
			faults: named(fault as never, 'What can go wrong on purpose, by name.', /^[A-Za-z_][\w-]*$/),
			faulty: shaped(
				{ type: 'array', items: { type: 'string' }, description: 'Faults that are on from the start.' },
				(value, report) => {
					if (!Array.isArray(value) || !value.every((one) => typeof one === 'string'))
						report([], 'a list of names of faults is wanted');
				}
			),
			answers: listOf(answer, 'What comes in and what is answered; the first that fits is.'),
			calls: listOf(ownCall, 'Calls that it makes by itself, over and over or when it is told to.'),
			otherwise: shaped(
				{
					description: 'What becomes of a request that no answer fits: as the definition has it, or passed on.',
					anyOf: [
						{ const: 'definition' },
						{
							type: 'object',
							properties: { forward: { type: 'string' } },
							required: ['forward'],
							additionalProperties: false
						}
					]
				},
				(value, report) => {
					if (value === 'definition') return;
					const to = isObject(value) ? value.forward : undefined;
					if (typeof to !== 'string' || !(hasExpression(to) || isHttp(to)))
						report([], 'definition, or { forward: an address } is wanted');
				}
			)
		},
		{ heron: 'the version of the format, heron: 1' },
		(value, report) => {
			if (value.wsSecurity !== undefined && !/\.wsdl$/i.test(String(value.definition ?? '')))
				report(['wsSecurity'], 'definition: says of which WSDL the messages are');
			for (const [index, one] of (Array.isArray(value.calls) ? (value.calls as unknown[]) : []).entries())
				if (isObject(one) && one.webhook !== undefined && value.definition === undefined)
					report(['calls', index, 'webhook'], 'definition: says of which document it is');
			if (value.otherwise === 'definition' && value.definition === undefined)
				report(['otherwise'], 'definition: says which file that is');
		}
	),
	example: {
		heron: 1,
		title: 'Harbour master’s notices',
		port: 4720,
		stores: { notices: { key: 'number', from: [{ number: 'N-1', text: 'Berth B-07 is taken' }] } },
		faults: { slow: { delay: '500 ms to 2 s' } },
		answers: [
			{
				id: 'no-token',
				ask: 'POST /notices',
				must: [{ header: 'Authorization', present: false }],
				answer: { status: 401, body: { json: { title: 'A token is wanted' } } }
			},
			{ id: 'notices', resource: '/notices', store: 'notices' }
		]
	},
	check(value, report) {
		if (!isObject(value)) return;
		const answers = Array.isArray(value.answers) ? (value.answers as unknown[]) : [];
		const stores = isObject(value.stores) ? Object.keys(value.stores) : [];
		const faults = isObject(value.faults) ? Object.keys(value.faults) : [];
		const seen = new Map<string, string>();
		const once = (one: Record<string, unknown>, at: [string, number]) => {
			const own = String(one.id);
			const first = seen.get(own);
			if (first === undefined) seen.set(own, `entry ${at[1] + 1} of ${at[0]}`);
			else report([...at, 'id'], `the id "${own}" is used twice here: ${first} has it already`);
		};
		answers.forEach((one, index) => {
			if (!isObject(one)) return;
			once(one, ['answers', index]);
			const used = typeof one.store === 'string' ? STORE.exec(one.store.trim())?.[2] : undefined;
			if (used && !stores.includes(used))
				report(['answers', index, 'store'], `there is no store "${used}"${didYouMean(used, stores)}`);
		});
		for (const [index, one] of (Array.isArray(value.calls) ? (value.calls as unknown[]) : []).entries())
			if (isObject(one)) once(one, ['calls', index]);
		for (const [index, name] of (Array.isArray(value.faulty) ? value.faulty : []).entries())
			if (!faults.includes(String(name)))
				report(['faulty', index], `there is no fault "${String(name)}"${didYouMean(String(name), faults)}`);
	}
};
