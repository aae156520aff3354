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

/** How high a field is, in pixels. */
export const FIELD_HEIGHT = 28;
/** Forms with more fields are drawn in pieces. */
export const WIDE = 120;
/** How many fields a value has. */
export const rowsOf = (value: Json | undefined): number =>
	Array.isArray(value)
		? value.reduce<number>((sum, one) => sum + rowsOf(one), 0)
		: isObject(value)
			? Object.values(value).reduce<number>((sum, one) => sum + rowsOf(one as Json), 1)
			: 1;

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
