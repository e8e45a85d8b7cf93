import { Marked } from 'marked';

/** The docs of the project, as text, by path below the folder of docs; they are part of the build. */
const TEXTS = import.meta.glob<string>('../../../../../docs/*.md', { query: '?raw', import: 'default', eager: true });
const PICTURES = import.meta.glob<string>('../../../../../docs/{screenshots,figures,recipes}/*', {
  query: '?url',
  import: 'default',
  eager: true,
});

const below = (path: string) => path.replace(/^.*\/docs\//, '');
const textOf = new Map(Object.entries(TEXTS).map(([path, text]) => [below(path).replace(/\.md$/, ''), text]));
const pictureOf = new Map(Object.entries(PICTURES).map(([path, url]) => [below(path), url]));

/** Where a link of the docs leads inside the application; null where its target is not part of it. */
function target(href: string): string | null {
  if (/^(https?:|#)/.test(href)) return href;
  const [, name, anchor = ''] = /^([a-z-]+)\.md(#.*)?$/.exec(href) ?? [];
  return name && textOf.has(name) ? `/manual/${name}${anchor}` : null;
}

const slug = (text: string) =>
  text
    .toLowerCase()
    .replace(/<[^>]*>/g, '')
    .replace(/[^\p{L}\p{N} -]/gu, '')
    .replaceAll(' ', '-');

const marked = new Marked({
  renderer: {
    heading({ tokens, depth }) {
      const html = this.parser.parseInline(tokens);
      return `<h${depth} id="${slug(html)}">${html}</h${depth}>\n`;
    },
    link({ href, tokens }) {
      const html = this.parser.parseInline(tokens);
      const to = target(href);
      return to ? `<a href="${to}">${html}</a>` : html;
    },
    image({ href, text }) {
      const url = pictureOf.get(href);
      return url ? `<img src="${url}" alt="${text}" loading="lazy">` : '';
    },
  },
});

/** A page of the docs as HTML; null if there is none of that name. The text is the project's own, so it is trusted. */
export function manualPage(name: string): string | null {
  const text = textOf.get(name);
  return text === undefined ? null : (marked.parse(text, { async: false }) as string);
}
