import { stringify } from 'yaml';

/** A pipeline as YAML: commands of several lines as blocks. */
export const yamlOf = (value: object): string =>
	stringify(value, { lineWidth: 0, defaultStringType: 'PLAIN', defaultKeyType: 'PLAIN', aliasDuplicateObjects: false });
