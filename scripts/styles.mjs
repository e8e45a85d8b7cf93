// Fails where a component names a class that its CSS module does not have, or a CSS module has one that nobody names.
import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative, resolve } from 'node:path';
import { root } from './build.mjs';

const source = join(root, 'apps/web/src');
const files = readdirSync(source, { recursive: true }).map((f) => join(source, String(f)));
const classesOf = (css) =>
  new Set(
    [...css.replace(/\/\*[\s\S]*?\*\//g, '').matchAll(/[^{}]*(?=\{)/g)].flatMap(([selector]) =>
      [...selector.matchAll(/\.([A-Za-z_][\w-]*)/g)].map((m) => m[1]),
    ),
  );

const known = new Map(
  files.filter((f) => f.endsWith('.module.css')).map((f) => [f, classesOf(readFileSync(f, 'utf8'))]),
);
const used = new Map([...known.keys()].map((f) => [f, new Set()]));
let problems = 0;
const say = (text) => {
  problems++;
  console.error(text);
};

for (const file of files.filter((f) => /\.(tsx?|astro)$/.test(f))) {
  const text = readFileSync(file, 'utf8');
  for (const [, name, from] of text.matchAll(/import (\w+) from '([^']+\.module\.css)'/g)) {
    const module = resolve(dirname(file), from);
    const classes = known.get(module);
    if (!classes) {
      say(`${relative(root, file)}: ${from} is not there`);
      continue;
    }
    // Whatever is picked by a value may be any of them.
    if (new RegExp(`\\b${name}\\[`).test(text)) for (const c of classes) used.get(module).add(c);
    const code = text.replace(/^import .*$/gm, '');
    for (const [, own] of code.matchAll(new RegExp(`\\b${name}\\.(\\w+)`, 'g'))) {
      used.get(module).add(own);
      if (!classes.has(own)) say(`${relative(root, file)}: ${from} has no class "${own}"`);
    }
  }
}
for (const [module, classes] of known)
  for (const c of classes)
    if (!used.get(module).has(c)) say(`${relative(root, module)}: nobody names the class "${c}"`);
process.exit(problems === 0 ? 0 : 1);
