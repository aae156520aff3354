import type { Json, JsonObject } from '#core/model/json.ts';
import { isObject } from '#core/model/json.ts';
import {
	elementsWithin,
	readable,
	sampleElement,
	valueKey,
	type ComplexModel,
	type ElementModel,
	type ParticleModel,
	type SoapModel
} from '#core/soap/index.ts';

/** What the fields of a form need from it. */
export interface FormTools {
	set(path: (string | number)[], value: Json | undefined): void;
	/** Several values at once, as one change. */
	setAll(changes: { path: (string | number)[]; value: Json | undefined }[]): void;
	problemAt(path: (string | number)[]): string;
	/** It has so many fields that only those near the part in sight are drawn. */
	wide: boolean;
}

export const objectOf = (value: Json | undefined): JsonObject => (isObject(value) ? (value as JsonObject) : {});

/** The elements of a particle that have a value. */
export const given = (particle: ParticleModel, type: ComplexModel, value: JsonObject): ElementModel[] =>
	elementsWithin(particle).filter((one) => Object.hasOwn(value, valueKey(one, type)));

/** What a branch of a choice is called: its elements. */
export function branchName(particle: ParticleModel): string {
	if (particle.kind === 'any') return 'anything';
	const names = elementsWithin(particle).map(({ local }) => local);
	return names.length > 3 ? `${names.slice(0, 3).join(', ')} …` : names.join(', ') || 'nothing';
}

/** What an element begins with when it is added. */
export const startOf = (model: SoapModel, element: ElementModel): Json => readable(sampleElement(model, element));
