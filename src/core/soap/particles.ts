import type { ElementModel, ParticleModel } from './model.ts';
import { UNBOUNDED } from './schema/index.ts';

/** Whether other elements than those that it names may stand in a content. */
export const hasAny = (content: ParticleModel | undefined): boolean =>
	content !== undefined && (content.kind === 'any' || (content.kind !== 'element' && content.items.some(hasAny)));

/** Whether it may be left out, or filled by nothing. */
export const fitsEmpty = (particle: ParticleModel): boolean =>
	particle.min === 0 ||
	(particle.kind === 'choice'
		? particle.items.some(fitsEmpty)
		: particle.kind !== 'element' && particle.kind !== 'any' && particle.items.every(fitsEmpty));

/** The most often that an element may stand in a content, all that is around it counted. */
export function maxOf(content: ParticleModel | undefined, element: ElementModel): { max: number } {
	const count = (particle: ParticleModel): number => {
		if (particle.kind === 'any') return 0;
		const within =
			particle.kind === 'element'
				? Number(particle.elements.some((one) => one.local === element.local && one.namespace === element.namespace))
				: particle.items.reduce((sum, item) => Math.min(UNBOUNDED, sum + count(item)), 0);
		return within === 0 ? 0 : Math.min(UNBOUNDED, within * particle.max);
	};
	return { max: content ? count(content) : 0 };
}

/** The group that repeats as a whole, where a content is one. */
export function repeatingGroup(content: ParticleModel): Extract<ParticleModel, { items: unknown }> | undefined {
	if (content.kind === 'element' || content.kind === 'any') return undefined;
	if (content.max > 1) return content;
	return content.items.length === 1 ? repeatingGroup(content.items[0]!) : undefined;
}
