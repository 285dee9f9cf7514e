import { createRequire } from 'node:module';
import { expect, it } from 'vitest';
import { preparePage } from './three-model';

it('the little of a page that three’s parsers ask for stands in no other library’s way', () => {
  preparePage();
  const require = createRequire(import.meta.url);
  const file = require.resolve('gltf-validator/gltf_validator.dart.js');
  // Read anew, as it looks for its page while it is read.
  const { [file]: before } = require.cache;
  Reflect.deleteProperty(require.cache, file);
  try {
    expect(() => {
      require(file);
    }).not.toThrow();
  } finally {
    if (before) require.cache[file] = before;
  }
});
