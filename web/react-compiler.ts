import { transformAsync } from '@babel/core';
import compiler from 'babel-plugin-react-compiler';
import type { Plugin } from 'vite';

/**
 * React's own compiler as a step of the build: what a change does not touch is not rendered again. The ready-made plugin for it
 * (@rolldown/plugin-babel) asks for Node 22; this runs wherever the rest does.
 */
export function reactCompiler(): Plugin {
  return {
    name: 'react-compiler',
    enforce: 'pre',
    transform: {
      filter: { id: /\/web\/src\/.*\.tsx?$/ },
      async handler(code, id) {
        const compiled = await transformAsync(code, {
          filename: id,
          babelrc: false,
          configFile: false,
          sourceMaps: true,
          parserOpts: { plugins: ['typescript', 'jsx'] },
          plugins: [[compiler, { target: '19' }]],
        });
        return compiled?.code ? { code: compiled.code, map: compiled.map } : undefined;
      },
    },
  };
}
