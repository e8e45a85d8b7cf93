import type { SurveyView } from '../../contract/project.ts';
import { bytes } from '../../ui/format.ts';
import css from './Findings.module.css';

/** What the survey noticed, and the memory in every format. */
export function Findings({ survey }: { survey: SurveyView }) {
  const t = survey.totals;
  const bad = survey.files.filter((f) => !f.ok);
  return (
    <aside className={css.box}>
      <h2>Findings</h2>
      {bad.length > 0 && (
        <details className={css.bad}>
          <summary>{bad.length === 1 ? '1 file was not read' : `${bad.length} files were not read`}</summary>
          <ul>
            {bad.map((f) => (
              <li key={f.path}>
                <b>{f.path}</b> {f.error}
              </li>
            ))}
          </ul>
        </details>
      )}
      {survey.findings.length === 0 && <p className={css.none}>No twins among textures or materials.</p>}
      {survey.findings.map((f) => (
        <p key={f.code} className={css.finding}>
          {f.message}
          {f.saves.bytes ? ` (${bytes(f.saves.bytes)} as RGBA8)` : ''}.
        </p>
      ))}
      <h2>Texture memory, all mips</h2>
      <table>
        <thead>
          <tr>
            <th>As</th>
            <th>stored</th>
            <th>twins shared</th>
          </tr>
        </thead>
        <tbody>
          {(['rgba8', 'bc7', 'bc1', 'astc6x6'] as const).map((k) => (
            <tr key={k}>
              <td>{{ rgba8: 'RGBA8', bc7: 'BC7', bc1: 'BC1', astc6x6: 'ASTC 6×6' }[k]}</td>
              <td>{bytes(t.textureBytes[k])}</td>
              <td>{bytes(t.distinctTextureBytes[k])}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </aside>
  );
}
