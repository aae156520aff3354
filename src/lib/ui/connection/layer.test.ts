import { describe, expect, test } from 'vitest';
import { layersOf, settingIn, withSetting } from './layer.ts';

const connection = { base: 'https://a', tls: { min: '1.2' }, environments: { staging: { base: 'https://b' } } };

describe('a setting', () => {
	test('of an environment shows what it inherits', () => {
		expect(settingIn(connection, 'staging', ['base'])).toEqual({ own: 'https://b', inherited: 'https://a' });
		expect(settingIn(connection, 'staging', ['tls', 'min'])).toEqual({ own: undefined, inherited: '1.2' });
		expect(settingIn(connection, '', ['base'])).toEqual({ own: 'https://a', inherited: undefined });
	});
	test('is written where it belongs', () => {
		expect(withSetting(connection, 'local', ['tls', 'verify'], false)).toEqual({
			...connection,
			environments: { staging: { base: 'https://b' }, local: { tls: { verify: false } } }
		});
		expect(withSetting(connection, '', ['http'], 'auto')).toEqual({ ...connection, http: 'auto' });
	});
	test('that is taken away leaves no empty maps', () => {
		expect(withSetting(connection, 'staging', ['base'], undefined)).toEqual({ base: 'https://a', tls: { min: '1.2' } });
		expect(withSetting(connection, '', ['tls', 'min'], undefined)).toEqual({
			base: 'https://a',
			environments: connection.environments
		});
		expect(withSetting(connection, 'staging', [], undefined)).toEqual({ base: 'https://a', tls: { min: '1.2' } });
	});
	test('says in which environments anything differs', () => {
		expect(layersOf(connection)).toEqual(['staging']);
		expect(layersOf({ base: 'x' })).toEqual([]);
	});
});
