import { attributeOf, childrenOf, nameOf, type XmlElement } from '../tree.ts';
import { attributesOf, type DeclaredAttributes } from './attributes.ts';
import { textTypeOf } from './builtin.ts';
import { docOf, isTrue, keyOf, refer, type Found, type SchemaContext } from './context.ts';
import { modelOf } from './particles.ts';
import { readSimple, restricted } from './simple.ts';
import { SOAP_ENCODING, XSD, type ComplexType, type Particle, type SchemaDocument, type Type } from './types.ts';

const WSDL = 'http://schemas.xmlsoap.org/wsdl/';

/** The `extension` or `restriction` of a complex type, and the content that it stands in. */
export function derivationOf(node: XmlElement): { content: XmlElement; derivation: XmlElement } | undefined {
	const content = childrenOf(node, XSD, 'simpleContent', 'complexContent')[0];
	const derivation = content && childrenOf(content, XSD, 'extension', 'restriction')[0];
	return content && derivation && { content, derivation };
}

/** A complex type (XSD 1.0 part 1 section 3.4). */
export function readComplex(context: SchemaContext, { node, document }: Found, name: string): ComplexType {
	const derived = derivationOf(node);
	const declared = attributesOf(context, derived?.derivation ?? node, document);
	const made: ComplexType = {
		kind: 'complex',
		name,
		base: '',
		abstract: isTrue(attributeOf(node, 'abstract')),
		mixed: isTrue(attributeOf(node, 'mixed')),
		attributes: declared.uses,
		anyAttribute: declared.any,
		doc: docOf(node)
	};
	if (!derived) {
		const content = modelOf(context, node, document);
		return content ? { ...made, content } : made;
	}
	const { content, derivation } = derived;
	if (isTrue(attributeOf(content, 'mixed'))) made.mixed = true;
	made.base = refer(document, derivation, attributeOf(derivation, 'base') ?? '');
	const base = baseOf(context, made.base);
	const extending = derivation.local === 'extension';
	inheritAttributes(made, base, declared, extending);
	if (content.local === 'simpleContent') {
		const text = textTypeOf(base);
		return { ...made, text: extending ? text : restricted(context, derivation, document, text) };
	}
	const arrayOf = itemOfArray(made.base, base, derivation, document);
	if (arrayOf) made.arrayOf = arrayOf;
	const own = modelOf(context, derivation, document);
	if (extending && base.kind === 'complex' && base.mixed && made.base !== nameOf(XSD, 'anyType')) made.mixed = true;
	const whole = extending ? after(base.kind === 'complex' ? base.content : undefined, own) : own;
	return whole ? { ...made, content: whole } : made;
}

/** A redefinition is derived from what it redefines. */
function baseOf(context: SchemaContext, name: string): Type {
	const original = context.reading.has(name) ? context.originals.get(keyOf('type', name)) : undefined;
	if (!original) return context.type(name);
	return original.node.local === 'simpleType' ? readSimple(context, original, '') : readComplex(context, original, '');
}

function inheritAttributes(
	made: ComplexType,
	base: Type,
	{ uses, prohibited }: DeclaredAttributes,
	extending: boolean
): void {
	if (base.kind !== 'complex') return;
	const goesOn = ({ local }: { local: string }) =>
		!prohibited.includes(local) && !uses.some((one) => one.local === local);
	made.attributes = [...base.attributes.filter(goesOn), ...uses];
	if (extending) made.anyAttribute ||= base.anyAttribute;
}

/** What an array of SOAP 1.1 section 5.4.2 holds. */
function itemOfArray(
	baseName: string,
	base: Type,
	derivation: XmlElement,
	document: SchemaDocument
): string | undefined {
	const inherited = base.kind === 'complex' ? base.arrayOf : undefined;
	if (baseName !== nameOf(SOAP_ENCODING, 'Array') && !inherited) return undefined;
	for (const one of childrenOf(derivation, XSD, 'attribute')) {
		const text = attributeOf(one, 'arrayType', WSDL);
		if (text !== undefined) return refer(document, one, text.replace(/\[[\d,]*\]\s*$/, ''));
	}
	return inherited;
}

/** An extension comes after what it extends. */
const after = (before: Particle | undefined, own: Particle | undefined): Particle | undefined =>
	before && own ? { kind: 'sequence', min: 1, max: 1, items: [before, own] } : (before ?? own);
