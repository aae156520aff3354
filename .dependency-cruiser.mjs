import { existsSync, readdirSync } from 'node:fs';

// Who may import whom. docs/decisions/0001-one-core-two-shells.md says why.
const packages = (names) => `node_modules/(${names.join('|')})/`;
/** Every folder of the core that has an index. */
const doors = readdirSync(new URL('src/core', import.meta.url)).filter((name) =>
	existsSync(new URL(`src/core/${name}/index.ts`, import.meta.url))
);
const DOORS = `^src/core/(${doors.join('|')})/`;
/** @type {import('dependency-cruiser').IConfiguration} */
export default {
	forbidden: [
		{
			name: 'no-cycles',
			severity: 'error',
			from: { path: '^(src|standins)' },
			to: { circular: true }
		},
		{
			name: 'core-model-is-the-bottom',
			comment: 'Shapes and what reads them; of kinds the shape of a check alone.',
			severity: 'error',
			from: { path: '^src/core/model/', pathNot: '\\.test\\.ts$' },
			to: {
				path: '^src/core/(?!model/|values/|wording/|[^/]+\\.ts$)',
				dependencyTypesNot: ['type-only']
			}
		},
		{
			name: 'core-kinds-know-no-project',
			severity: 'error',
			from: {
				path: '^src/core/(values|selectors|checks|bodies|steps|auth|soap|openapi|datasets|baselines|diff|reading|redact|lint)/',
				pathNot: '\\.test\\.ts$'
			},
			to: { path: '^src/core/(documents|project|run|definitions|gate|coverage|reports|refactor|reach)/' }
		},
		{
			name: 'core-project-knows-no-run',
			severity: 'error',
			from: { path: '^src/core/(documents|project)/', pathNot: '\\.test\\.ts$' },
			to: { path: '^src/core/(run|definitions|gate|coverage|reports|refactor|reach)/' }
		},
		{
			name: 'core-imports-core',
			comment: 'The core runs anywhere: itself and a few pure packages.',
			severity: 'error',
			from: { path: '^src/core', pathNot: '\\.test\\.ts$' },
			to: {
				pathNot: [
					'^src/core',
					packages([
						'yup',
						'yaml',
						'jsonata',
						'json-p3',
						'jsonc-parser',
						'js-yaml',
						'lossless-json',
						'diff',
						'csv-parse',
						'saxes',
						'parse5',
						'randexp|re2js|xspattern',
						'@noble/hashes',
						'@faker-js/faker',
						'oauth4webapi',
						'entities',
						'url-template',
						'croner',
						'@exodus/bytes'
					])
				]
			}
		},
		{
			name: 'core-reaches-no-shell',
			severity: 'error',
			from: { path: '^src/core', pathNot: '\\.test\\.ts$' },
			to: { path: '^(src/(server|cli|lib|routes)|standins)', reachable: true }
		},
		{
			name: 'engine-needs-no-store',
			severity: 'error',
			from: { path: '^src/server/engine' },
			to: { path: '^src/server/store', reachable: true }
		},
		{
			name: 'engine-imports',
			severity: 'error',
			from: { path: '^src/server/(engine|config)' },
			to: { path: '^(src/(cli|lib|routes)|standins)' }
		},
		{
			name: 'store-imports',
			severity: 'error',
			from: { path: '^src/server/store' },
			to: { path: '^(src/(cli|lib|routes|server/engine)|standins)' }
		},
		{
			name: 'only-the-store-imports-sequelize',
			severity: 'error',
			from: { path: '^src', pathNot: '^src/server/store' },
			to: { path: packages(['sequelize', 'sqlite3', 'umzug']) }
		},
		{
			name: 'pages-import-core-and-ui',
			severity: 'error',
			from: { path: ['^src/lib/ui', '^src/routes/.*\\+(page|layout|error)\\.(svelte|ts)$'] },
			to: { path: ['^src/(server|cli)', '^src/lib/server', '^standins'], dependencyTypesNot: ['type-only'] }
		},
		{ name: 'standins-stand-alone', severity: 'error', from: { path: '^standins' }, to: { path: '^src' } },
		{
			name: 'cli-imports',
			severity: 'error',
			comment: 'The command works on files; only the vault is a matter of the store.',
			from: { path: '^src/cli', pathNot: '^src/cli/vault\\.ts$' },
			to: { path: '^src/(lib|routes|server/store)' }
		},
		{
			name: 'cli-needs-no-pages',
			severity: 'error',
			from: { path: '^src/cli' },
			to: { path: '^src/(lib|routes)' }
		},
		{
			name: 'through-the-door',
			comment: 'A folder with an index is entered by it; a part of it that is loaded later is named.',
			severity: 'error',
			from: { path: '^src/core/([^/]+)/', pathNot: '\\.test\\.ts$' },
			to: { path: DOORS, pathNot: ['^src/core/$1/', '/index\\.ts$'], dynamic: false }
		},
		{
			name: 'through-the-core-doors',
			severity: 'error',
			from: { path: '^src/(server|cli|lib|routes)', pathNot: '\\.test\\.ts$' },
			to: { path: DOORS, pathNot: '/index\\.ts$', dynamic: false }
		},
		{
			name: 'through-the-server-doors',
			severity: 'error',
			from: { path: '^src/(cli|lib|routes)' },
			to: { path: '^src/server/(store|engine/send)/', pathNot: '/index\\.ts$', dependencyTypesNot: ['type-only'] }
		}
	],
	options: {
		doNotFollow: { path: 'node_modules' },
		tsPreCompilationDeps: true,
		tsConfig: { fileName: 'tsconfig.json' },
		extraExtensionsToScan: ['.svelte'],
		enhancedResolveOptions: {
			exportsFields: ['exports'],
			conditionNames: ['svelte', 'import', 'default'],
			extensions: ['.ts', '.js', '.svelte']
		}
	}
};
