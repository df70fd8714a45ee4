/**
 * A transformer of Jest for packages that consist of hundreds of files: each becomes one, once, since every test file loads them anew.
 * Jest keeps what it gives.
 */
const { createHash } = require('node:crypto');
const { existsSync, readFileSync } = require('node:fs');
const path = require('node:path');
const { buildSync, version } = require('esbuild');

module.exports = {
  getCacheKey: (source, filename) => {
    const lock = readFileSync(path.join(__dirname, '..', 'package-lock.json'));
    return createHash('sha256').update(version).update(filename).update(source).update(lock).digest('hex');
  },
  process: (source, filename) => {
    // Its modules cost less than what they were compiled to.
    const entry = ['.mjs', '.js'].map((ending) => filename.replace(/\.cjs$/, ending)).find((file) => existsSync(file));
    const { outputFiles } = buildSync({
      entryPoints: [entry],
      bundle: true,
      write: false,
      minify: true,
      format: 'cjs',
      platform: 'node',
      external: ['react', 'react-dom'],
    });
    return { code: outputFiles[0].text };
  },
};
