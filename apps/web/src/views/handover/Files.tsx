import type { ResultView } from '../../contract/project.ts';
import { bytes } from '../../ui/format.ts';
import { byFolder, fileTitle } from './files-of.ts';
import css from './HandOverView.module.css';

export interface FilesProps {
  result: ResultView;
  /** Bytes by file, of a proof those that the final is expected to have. */
  sizes: Record<string, number>;
  proof: boolean;
}

/** The exact files of the delivery. */
export function Files({ result, sizes, proof }: FilesProps) {
  return (
    <section>
      <h2>Files</h2>
      <table data-testid="delivery" className={proof ? css.expected : ''}>
        <tbody>
          {[...byFolder(result.written)].map(([folder, names]) => [
            folder && (
              <tr key={folder}>
                <td className={css.file} colSpan={3}>
                  {folder}
                </td>
              </tr>
            ),
            ...names.map((name) => (
              <tr key={name}>
                <td className={`${css.file} ${folder ? css.inside : ''}`}>{name.slice(folder.length)}</td>
                <td className={css.what}>{fileTitle(name, result)}</td>
                <td
                  className={css.size}
                >{`${proof && sizes[name] !== result.sizes[name] ? '≈ ' : ''}${bytes(sizes[name] ?? 0)}`}</td>
              </tr>
            )),
          ])}
        </tbody>
      </table>
    </section>
  );
}
