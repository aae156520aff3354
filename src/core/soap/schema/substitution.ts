import { attributeOf, nameOf } from '../tree.ts';
import { derivationOf } from './complex.ts';
import { isTrue, keyOf, namesOf, refer, type SchemaContext } from './context.ts';
import { elementByName } from './elements.ts';
import type { ElementDeclaration } from './types.ts';

/** What may stand in for a type or an element; looked up once, when it is first asked for. */
export function substitution(context: SchemaContext): {
	derived(name: string): string[];
	standIns(element: ElementDeclaration): ElementDeclaration[];
} {
	let byBase: Map<string, string[]> | undefined;
	let byHead: Map<string, string[]> | undefined;
	return {
		derived(name) {
			byBase ??= typesByBase(context);
			const reached = new Set([name]);
			// what is added is walked as well
			for (const at of reached) for (const one of byBase.get(at) ?? []) reached.add(one);
			return [...reached].filter((at) => !isAbstract(context, at));
		},
		standIns(element) {
			if (!element.global) return [element];
			byHead ??= elementsByHead(context);
			const out: ElementDeclaration[] = [];
			const seen = new Set<string>();
			const visit = (declared: ElementDeclaration) => {
				const name = nameOf(declared.namespace, declared.local);
				if (seen.has(name)) return;
				seen.add(name);
				if (!declared.abstract) out.push(declared);
				for (const other of byHead!.get(name) ?? []) visit(elementByName(context, other)!);
			};
			visit(element);
			return out;
		}
	};
}

const add = (map: Map<string, string[]>, key: string, name: string): void => {
	const list = map.get(key);
	if (list) list.push(name);
	else map.set(key, [name]);
};

function typesByBase(context: SchemaContext): Map<string, string[]> {
	const found = new Map<string, string[]>();
	for (const name of namesOf(context, 'type')) {
		const { node, document } = context.index.get(keyOf('type', name))!;
		const derivation = node.local === 'complexType' ? derivationOf(node)?.derivation : undefined;
		const base = derivation && attributeOf(derivation, 'base');
		if (base) add(found, refer(document, derivation, base), name);
	}
	return found;
}

function elementsByHead(context: SchemaContext): Map<string, string[]> {
	const found = new Map<string, string[]>();
	for (const name of namesOf(context, 'element')) {
		const head = elementByName(context, name)!.substitutes;
		if (head) add(found, head, name);
	}
	return found;
}

function isAbstract({ index }: SchemaContext, name: string): boolean {
	const found = index.get(keyOf('type', name));
	return found !== undefined && isTrue(attributeOf(found.node, 'abstract'));
}
