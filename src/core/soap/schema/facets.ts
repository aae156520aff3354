import type { Facets } from '../builtins.ts';
import { attributeOf, elementsOf, type XmlElement } from '../tree.ts';
import { XSD } from './types.ts';

/** The facets of a restriction over those of its base (XSD 1.0 part 2 section 4.3). */
export function facetsOf(restriction: XmlElement, from: Facets): Facets {
	const facets: Facets = { ...from };
	const patterns: string[] = [];
	const values: string[] = [];
	for (const node of elementsOf(restriction)) {
		const value = attributeOf(node, 'value');
		if (node.namespace !== XSD || value === undefined) continue;
		switch (node.local) {
			case 'enumeration':
				values.push(value);
				break;
			case 'pattern':
				patterns.push(value);
				break;
			case 'length':
			case 'minLength':
			case 'maxLength':
			case 'totalDigits':
			case 'fractionDigits':
				facets[node.local] = Number(value);
				break;
			case 'minInclusive':
			case 'minExclusive':
				delete facets.minInclusive;
				delete facets.minExclusive;
				facets[node.local] = value;
				break;
			case 'maxInclusive':
			case 'maxExclusive':
				delete facets.maxInclusive;
				delete facets.maxExclusive;
				facets[node.local] = value;
		}
	}
	if (values.length > 0) facets.enumeration = values;
	if (patterns.length > 0) facets.patterns = [...(from.patterns ?? []), patterns];
	return facets;
}
