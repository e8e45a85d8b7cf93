// `node scripts/version.mjs`: fails where the version of a package or of the changelog is another one than that of package.json.
// `node scripts/version.mjs 0.16.0`: sets it in all packages; run `npm install` afterwards, and give the changelog its heading.
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './build.mjs';

const files = [
  'package.json',
  ...['packages', 'apps'].flatMap((top) => readdirSync(join(root, top)).map((name) => `${top}/${name}/package.json`)),
  'e2e/package.json',
];
const read = (file) => JSON.parse(readFileSync(join(root, file), 'utf8'));
const wanted = process.argv[2] ?? read('package.json').version;

if (process.argv[2]) {
  for (const file of files) {
    const json = read(file);
    if (json.version) json.version = wanted;
    for (const list of [json.dependencies, json.devDependencies])
      for (const name of Object.keys(list ?? {})) if (name.startsWith('@wembrel/')) list[name] = wanted;
    writeFileSync(join(root, file), `${JSON.stringify(json, null, 2)}\n`);
  }
}
const said = readFileSync(join(root, 'CHANGELOG.md'), 'utf8').match(/^## (\S+)/m)?.[1];
const wrong = files.filter((f) => (read(f).version ?? wanted) !== wanted);
for (const file of wrong) console.error(`${file}: version ${read(file).version}, not ${wanted}`);
if (said !== wanted) console.error(`CHANGELOG.md: the newest heading is ${said}, not ${wanted}`);
process.exit(wrong.length > 0 || said !== wanted ? 1 : 0);
