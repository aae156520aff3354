import { isObject, type Json, type JsonObject } from '../model/json.ts';
import type { DocumentKind } from './kind.ts';
import { VARIABLE_NAME } from './project.ts';
import { flag, mapOf, names, record, shaped, text, version } from '../model/shape.ts';

/** Variables and names of secrets for one place to test in: a file in `environments/`. */
export interface Environment {
	name: string;
	title: string;
	variables: JsonObject;
	secrets: string[];
	/** Hosts that a secret may go to, by its name; one that is not here may go anywhere. */
	secretHosts: Record<string, string[]>;
	/** Connections that a stand-in answers for, by their names. */
	standIns: Record<string, string>;
	/** Real users live here: what may change something asks first. */
	guarded: boolean;
}

/** Names of environments: of their files, and by which others speak of them. */
export const ENVIRONMENT_NAME = /^[a-z0-9][\w-]*$/i;

const HOST = /^(\*\.)?([A-Za-z0-9_-]+(\.[A-Za-z0-9_-]+)*\.?|\[[0-9A-Fa-f:.]+\])(:\d{1,5})?$/;
/** Whether a text names a host of `secretHosts`: a name, `*.` for any names before it, a port where one is meant. */
export const isHost = (text: string): boolean => HOST.test(text);
const hosts = (doc: string) =>
	shaped(
		{ type: 'object', description: doc, additionalProperties: { type: 'array', items: { type: 'string' } } },
		(value, report) => {
			if (!isObject(value)) return report([], 'names of secrets with lists of hosts are wanted');
			for (const [name, list] of Object.entries(value))
				if (!Array.isArray(list)) report([name], 'a list of hosts is wanted');
				else
					list.forEach((host, index) => {
						if (typeof host !== 'string' || !isHost(host))
							report(
								[name, index],
								'a host is wanted, such as api.reedmere.example, *.reedmere.example or 127.0.0.1:4681'
							);
					});
		}
	);

export const environment: DocumentKind = {
	name: 'environment',
	folder: 'environments',
	doc: 'The variables of one environment; secrets are named, never valued.',
	schema: record(
		{
			heron: version,
			title: text('The name that people read.'),
			guarded: flag(
				'Real users live here: calls that may change something ask first, and the command wants --allow-guarded.'
			),
			variables: mapOf('Names and values.', VARIABLE_NAME),
			secrets: names('The names of the secrets that it needs.'),
			standIns: mapOf('Connections that a stand-in answers for: their names, and its name.'),
			secretHosts: hosts('Hosts that a secret may go to, by its name; a call that would take it elsewhere is not sent.')
		},
		{ heron: 'the version of the format, heron: 1' }
	),
	example: {
		heron: 1,
		title: 'Local',
		variables: { reedmere: 'http://127.0.0.1:4681/v1', clerk: 'avery' },
		secrets: ['clerkPassword'],
		secretHosts: { clerkPassword: ['127.0.0.1:4681', '*.reedmere.example'] }
	}
};

/** An environment in full, defaults filled in. */
export function parseEnvironment(name: string, value: Json): Environment {
	const given = isObject(value) ? value : {};
	return {
		name,
		title: String(given.title ?? name),
		variables: (isObject(given.variables) ? given.variables : {}) as JsonObject,
		secrets: Array.isArray(given.secrets) ? given.secrets.filter((one): one is string => typeof one === 'string') : [],
		secretHosts: Object.fromEntries(
			Object.entries(isObject(given.secretHosts) ? given.secretHosts : {}).map(([secret, named]) => [
				secret,
				Array.isArray(named) ? named.map(String) : []
			])
		),
		standIns: Object.fromEntries(
			Object.entries(isObject(given.standIns) ? given.standIns : {}).map(([name, by]) => [name, String(by)])
		),
		guarded: given.guarded === true
	};
}
