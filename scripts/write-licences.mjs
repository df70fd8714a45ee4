/** `npm run licences`: THIRD-PARTY.md, the packages that the application is shipped with, and the texts that their licences want. */
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { root } from './setup.mjs';

/** What packages carry inside that their own licence does not tell. */
const INSIDE = {
  'mpg123-decoder':
    'holds mpg123 (LGPL-2.1), compiled to WebAssembly, unchanged. It is replaced by putting another build of the package in `node_modules/mpg123-decoder`: nothing of it is compiled into the application.',
  '@wasm-audio-decoders/flac': 'holds libFLAC (BSD-3-Clause), compiled to WebAssembly.',
  '@wasm-audio-decoders/ogg-vorbis': 'holds libvorbis and libogg (BSD-3-Clause), compiled to WebAssembly.',
  'ogg-opus-decoder': 'holds libopus (BSD-3-Clause), compiled to WebAssembly.',
  '@img/sharp-libvips-linux-x64':
    'is a native library (LGPL-3.0-or-later) of the image optimiser of Next.js, which the application does not use; it is loaded when it runs, and is replaced by another build of the package.',
  libsql: 'is a native module made of SQLite (public domain) with the changes of libSQL (MIT).',
};

const { packages } = JSON.parse(readFileSync(path.join(root, 'package-lock.json'), 'utf8'));
const shipped = Object.entries(packages)
  .filter(([at, { dev, devOptional }]) => at.startsWith('node_modules/') && !dev && !devOptional)
  .map(([at]) => ({ at, name: at.slice(at.lastIndexOf('node_modules/') + 'node_modules/'.length) }))
  .filter(({ at }) => existsSync(path.join(root, at, 'package.json')))
  .map(({ at, name }) => {
    const about = JSON.parse(readFileSync(path.join(root, at, 'package.json'), 'utf8'));
    const licence = typeof about.license === 'string' ? about.license : (about.license?.type ?? 'see its text');
    const file = readdirSync(path.join(root, at)).find((entry) => /^(licen[cs]e|copying)/i.test(entry));
    return {
      name,
      version: about.version,
      licence,
      author: typeof about.author === 'string' ? about.author : (about.author?.name ?? ''),
      text: file ? readFileSync(path.join(root, at, file), 'utf8').trim() : '',
    };
  })
  .sort((a, b) => (a.name < b.name ? -1 : 1));

/** Packages with the very same text share it. */
const texts = new Map();
for (const { name, text, licence, author } of shipped) {
  const shown = text || `${licence}${author ? `, ${author}` : ''}. The package carries no text of its own.`;
  texts.set(shown, [...(texts.get(shown) ?? []), name]);
}

const lines = [
  '# What others made',
  '',
  'The packages that the application is shipped with. Made by `npm run licences` from what is installed; what only builds or tests it is left out.',
  '',
  '| package | version | licence |',
  '|---|---|---|',
  ...shipped.map(({ name, version, licence }) => `| ${name} | ${version} | ${licence} |`),
  '',
  '## What lies inside',
  '',
  ...shipped.filter(({ name }) => INSIDE[name]).map(({ name }) => `- **${name}** ${INSIDE[name]}`),
  '',
  'The full text of the GNU Lesser General Public License 2.1 lies on every Debian system in `/usr/share/common-licenses/LGPL-2.1`, and is repeated at the end.',
  '',
  '## Texts',
  '',
  ...[...texts].flatMap(([text, names]) => [
    `### ${names.join(', ')}`,
    '',
    '```text',
    text.replaceAll('```', "'''"),
    '```',
    '',
  ]),
];
const lgpl = '/usr/share/common-licenses/LGPL-2.1';
if (existsSync(lgpl))
  lines.push('### GNU Lesser General Public License 2.1', '', '```text', readFileSync(lgpl, 'utf8').trim(), '```', '');
writeFileSync(path.join(root, 'THIRD-PARTY.md'), lines.join('\n'));
console.log(`THIRD-PARTY.md: ${shipped.length} packages.`);
