import { readyRecipes, type CredentialKind } from '#core/auth/index.ts';
import type { JsonObject } from '#core/model/json.ts';
import { referenceTo, secretName } from '../common/secrets.ts';

/** A new credential of a kind: what it needs, secrets by reference under names of its own. */
export function startOf(kind: CredentialKind, name: string): JsonObject {
	const value: JsonObject = { heron: 1, title: `New: ${kind.label}`, kind: kind.key };
	for (const field of kind.fields) {
		if (!field.required || field.form === 'data') continue;
		const hidden = field.secret || field.name === 'key';
		value[field.name] = hidden ? referenceTo(secretName(name, field.name)) : (field.choices?.[0] ?? '');
	}
	return kind.key === 'signature-recipe' ? { ...value, ...readyRecipes[0]!.value } : value;
}
