// @swc/jest, with Math bound in every module: in Jest's sandbox each look-up of a global goes through an interceptor,
// which makes the inner loops fifty times slower.
const swc = require('@swc/jest').createTransformer({
  jsc: { target: 'es2023', parser: { syntax: 'typescript', tsx: true } },
  module: { type: 'es6' },
});

const bind = (result) => ({ ...result, code: `const Math = globalThis.Math;${result.code}` });

module.exports = {
  ...swc,
  canInstrument: false,
  process: (source, file, options) => bind(swc.process(source, file, options)),
  processAsync: async (source, file, options) => bind(await swc.processAsync(source, file, options)),
  getCacheKey: (source, file, options) => `math-${swc.getCacheKey ? swc.getCacheKey(source, file, options) : source.length}`,
};
