import { plainSecretOf } from '#core/lint/index.ts';
import { isObject, type Json } from '#core/model/json.ts';
import { getIn, setIn, type Path } from '#core/model/path.ts';
import { api, messageOf } from '../common/api.ts';
import { freeName } from '../common/edit.ts';
import { keepSecret, secretName } from '../common/secrets.ts';
import { toasts } from '../common/toast.svelte.ts';
import type { Ledger } from './ledger.svelte.ts';

/** Where the text of a finding stands: a parameter may be a value, a pair, or a value with settings. */
function placeOf(document: Json, path: Path): Path {
	const found = getIn(document, path);
	if (Array.isArray(found)) return placeOf(document, [...path, 1]);
	return isObject(found) ? [...path, 'value'] : path;
}

/** Moves a secret that stands in plain into the vault, and refers to it where it stood. */
export async function moveSecret(ledger: Ledger, path: Path): Promise<void> {
	const at = placeOf(ledger.value, path);
	const text = getIn(ledger.value, at);
	const found = typeof text === 'string' ? plainSecretOf(text) : undefined;
	if (!found) return toasts.show('There is no text here to move.', 'trouble');
	const named = [...path].reverse().find((key) => typeof key === 'string' && key !== 'send' && key !== 'value');
	const { project } = ledger;
	try {
		const known = await api.get<{ secrets: { name: string }[] }>(`/projects/${project.name}/secrets`);
		const name = freeName(
			secretName(String(named ?? 'password')),
			known.secrets.map((one) => one.name)
		);
		await keepSecret(project, '', name, found.value);
		ledger.document.replace(setIn(ledger.document.value, at, found.moved(name)), `moving ${name} into the vault`);
		toasts.show(`${name} is in the vault, for every environment; {$secret.${name}} stands in its place.`);
	} catch (error) {
		toasts.show(messageOf(error), 'trouble');
	}
}
