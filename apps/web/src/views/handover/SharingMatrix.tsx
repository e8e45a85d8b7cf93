import type { ResultView } from '../../contract/project.ts';
import css from './SharingMatrix.module.css';

/** Models × textures: a mark where a model names a file. A full column is a texture that all share. */
export function SharingMatrix({ result }: { result: ResultView }) {
  const files = [...new Set(Object.values(result.uses).flat())].sort();
  if (files.length === 0)
    return (
      <section>
        <h2 className={css.title}>Shared textures</h2>
        <p className={css.none}>The textures are inside each GLB; nothing is shared.</p>
      </section>
    );
  const models = result.models.map((model) => ({ ...model, uses: new Set(result.uses[model.file]) }));
  return (
    <section>
      <h2 className={css.title}>Shared textures</h2>
      <div className={css.scroll}>
        <table className={css.matrix}>
          <thead>
            <tr>
              <td />
              {files.map((file) => (
                <th key={file} scope="col" title={file}>
                  <span>{file.split('/').pop()}</span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {models.map((model) => (
              <tr key={model.file}>
                <th scope="row" title={model.file}>
                  {model.file}
                </th>
                {files.map((file) => (
                  <td key={file}>{model.uses.has(file) ? '●' : ''}</td>
                ))}
              </tr>
            ))}
          </tbody>
          <tfoot>
            <tr>
              <th scope="row">used by</th>
              {files.map((file) => (
                <td key={file}>{models.filter((model) => model.uses.has(file)).length}</td>
              ))}
            </tr>
          </tfoot>
        </table>
      </div>
    </section>
  );
}
