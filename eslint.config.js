import js from '@eslint/js';
import hooks from 'eslint-plugin-react-hooks';
import ts from 'typescript-eslint';

// Imports go down only: web, lab, server → engine, contract → core → kernel. demo may use core; bench and e2e everything.
const above = {
  kernel: ['core', 'contract', 'engine', 'demo', 'lab', 'server', 'web'],
  core: ['contract', 'engine', 'demo', 'lab', 'server', 'web'],
  contract: ['engine', 'demo', 'lab', 'server', 'web'],
  engine: ['contract', 'demo', 'lab', 'server', 'web'],
  demo: ['contract', 'engine', 'lab', 'server', 'web'],
  lab: ['demo', 'server', 'web'],
  server: ['engine', 'lab', 'web'],
  web: ['demo', 'lab', 'server', 'kernel'],
};
// Within core: the ground floor knows nothing above it, and each floor only those below.
const floors = [
  ['math'],
  ['photometry', 'geometry', 'surface'],
  ['light'],
  ['setup'],
  ['scene'],
  ['face'],
  ['staging', 'trace', 'words', 'turntable'],
  ['placing', 'sequence'],
  ['film', 'job'],
  ['formats'],
];

const roomRule = (folders, files) => ({
  files,
  rules: {
    'no-restricted-imports': [
      'error',
      {
        patterns: [
          { group: folders.flatMap((f) => [`@plinket/${f}`, `@plinket/${f}/*`]), message: 'Imports go down only (docs/architecture.md).' },
        ],
      },
    ],
  },
});
const floorRule = (room, higher) => ({
  files: [`core/src/${room}/**/*.ts`],
  ignores: ['**/*.test.ts'],
  rules: {
    'no-restricted-imports': [
      'error',
      {
        patterns: [
          { group: higher.map((h) => `**/${h}/*`), message: `${room} stands below.` },
          { group: above.core.map((f) => `@plinket/${f}`), message: 'Imports go down only (docs/architecture.md).' },
        ],
      },
    ],
  },
});

export default ts.config(
  { ignores: ['**/node_modules', '**/build', '**/dist', '.data', '.cache', 'kernel/assembly', 'test-results'] },
  js.configs.recommended,
  ...ts.configs.recommended,
  {
    languageOptions: {
      globals: {
        process: 'readonly',
        console: 'readonly',
        URL: 'readonly',
        fetch: 'readonly',
        AbortSignal: 'readonly',
        setTimeout: 'readonly',
        clearTimeout: 'readonly',
        setInterval: 'readonly',
        clearInterval: 'readonly',
        document: 'readonly',
      },
    },
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/consistent-type-imports': 'error',
      eqeqeq: 'error',
      'no-console': 'off',
    },
  },
  ...Object.entries(above).map(([room, folders]) => roomRule(folders, [`${room}/src/**/*.{ts,tsx}`])),
  ...floors
    .flatMap((rooms, i) => rooms.map((room) => floorRule(room, floors.slice(i + 1).flat())))
    .filter((r) => r.rules['no-restricted-imports'][1].patterns[0].group.length),
  {
    files: ['**/*.cjs'],
    languageOptions: { globals: { module: 'writable', require: 'readonly' } },
    rules: { '@typescript-eslint/no-require-imports': 'off' },
  },
  {
    files: ['web/**/*.{ts,tsx}'],
    plugins: { 'react-hooks': hooks },
    rules: {
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
      'no-restricted-properties': [
        'error',
        { object: 'crypto', property: 'randomUUID', message: 'It is there on secure pages only: newId (parts/new-id.ts) is everywhere.' },
      ],
    },
  },
);
