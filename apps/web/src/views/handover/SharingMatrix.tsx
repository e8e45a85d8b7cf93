import type { ResultView } from '../../contract/project.ts';
import css from './SharingMatrix.module.css';

/** Models × textures: a mark where a model names a file. A full column is a texture that all share. */
export function SharingMatrix({ result }: { result: ResultView }) {
  const files = [...new Set(Object.values(result.uses).flat())].sort();
  if (files.length === 0)
    return (
      <section>
        <h2 className={css.title}>Who shares what</h2>
        <p className={css.none}>The textures are inside each GLB; nothing is shared.</p>
      </section>
    );
  const models = result.models.map((m) => ({ ...m, uses: new Set(result.uses[m.file]) }));
  return (
    <section>
      <h2 className={css.title}>Who shares what</h2>
      <div className={css.scroll}>
        <table className={css.matrix}>
          <thead>
            <tr>
              <td />
              {files.map((f) => (
                <th key={f} scope="col" title={f}>
                  <span>{f.split('/').pop()}</span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {models.map((m) => (
              <tr key={m.file}>
                <th scope="row" title={m.file}>
                  {m.file}
                </th>
                {files.map((f) => (
                  <td key={f}>{m.uses.has(f) ? '●' : ''}</td>
                ))}
              </tr>
            ))}
          </tbody>
          <tfoot>
            <tr>
              <th scope="row">used by</th>
              {files.map((f) => (
                <td key={f}>{models.filter((m) => m.uses.has(f)).length}</td>
              ))}
            </tr>
          </tfoot>
        </table>
      </div>
    </section>
  );
}
