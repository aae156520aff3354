import { locationsOf } from '../../soap/index.ts';
import { planWsdls } from '../wsdl.ts';
import type { DefinitionFormat } from './kind.ts';

/** WSDL 1.1 with its schemas. */
export const wsdl: DefinitionFormat = {
	key: 'wsdl',
	fits: ({ path }) => /\.wsdl$/i.test(path),
	names: locationsOf,
	plan: planWsdls
};
