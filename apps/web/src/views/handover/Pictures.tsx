import type { ResultView } from '../../contract/project.ts';
import { openTexels } from '../../project/texels/open-texels.ts';
import { bytes } from '../../ui/format.ts';
import type { TexelKind } from '../../workers/texel-values.ts';
import css from './HandOverView.module.css';

/** Those that models name. */
const IMAGE = /^(?!profiles\/).*\.(png|webp|jpe?g)$/i;

/** What the values of a delivered picture mean, where that is known. */
function kindOf(name: string, result: ResultView): TexelKind | null {
  for (const sheet of result.sheets)
    for (const [map, file] of Object.entries(sheet.maps))
      if (file === name) return map === 'normal' ? 'normal' : map === 'orm' ? 'data' : 'colour';
  return null;
}

const SPACES: Record<TexelKind, string> = { colour: 'sRGB', data: 'linear', normal: 'linear, normals' };

/** The delivered pictures themselves: what each is, how large, and how it is to be read. */
export function Pictures({ job, result }: { job: string; result: ResultView }) {
  const names = result.written.filter((name) => IMAGE.test(name));
  if (names.length === 0) return null;
  return (
    <section>
      <h2>Pictures</h2>
      <ul className={css.pictures}>
        {names.map((name) => {
          const url = `/api/jobs/${job}/files/delivery/${name.split('/').map(encodeURIComponent).join('/')}`;
          const kind = kindOf(name, result);
          return (
            <li key={name}>
              <button
                type="button"
                aria-label={`View texels of ${name}`}
                onClick={() => openTexels({ title: name, source: { url }, kind: kind ?? 'colour' })}
              >
                <img src={url} alt="" loading="lazy" />
              </button>
              <span title={name}>{name.slice(name.lastIndexOf('/') + 1)}</span>
              <em>
                {bytes(result.sizes[name] ?? 0)}
                {kind && `, ${SPACES[kind]}`}
              </em>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
