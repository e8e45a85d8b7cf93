import type { TrialLoad } from '@wembrel/runner/trial/trial-load';
import { useState } from 'react';
import type { ResultView } from '../../contract/project.ts';
import { Button } from '../../ui/Button.tsx';
import css from './TrialPanel.module.css';
import { trialRows } from './trial-rows.ts';
import { useTrialScene } from './use-trial.ts';

export interface TrialPanelProps {
  job: string;
  after: ResultView['after'];
  trial: TrialLoad;
}

/** What an engine meets: the counts of the loaded files beside the bill's, the problems, and a picture by the open 3D library. */
export function TrialPanel({ job, after, trial }: TrialPanelProps) {
  const [open, setOpen] = useState(false);
  const scene = useTrialScene(job);
  const problems = [
    ...trial.problems,
    ...(scene?.failed ?? []).map(({ file, text }) => ({ file, text: `the 3D library cannot load it: ${text}` })),
  ];
  return (
    <section className={css.trial} aria-label="Trial load">
      <h2>Trial load</h2>
      {open ? (
        <iframe className={css.frame} src={`/trial/${job}`} title="The delivery, loaded by the open 3D library" />
      ) : (
        <Button onClick={() => setOpen(true)}>Load in 3D</Button>
      )}
      <table>
        <thead>
          <tr>
            <td />
            <th scope="col">bill</th>
            <th scope="col">loaded</th>
            {scene && <th scope="col">drawn</th>}
          </tr>
        </thead>
        <tbody>
          {trialRows(after, trial, scene).map((row) => (
            <tr key={row.label} className={row.agrees ? '' : css.off}>
              <th scope="row">{row.label}</th>
              <td>{row.bill}</td>
              <td>{row.loaded}</td>
              {scene && <td>{row.drawn}</td>}
            </tr>
          ))}
        </tbody>
      </table>
      {problems.length === 0 ? (
        <p className={css.none}>No problems.</p>
      ) : (
        <ul className={css.problems}>
          {problems.slice(0, 20).map(({ file, text }) => (
            <li key={`${file} ${text}`}>
              <b>{file}</b>: {text}
            </li>
          ))}
          {problems.length > 20 && <li>… and {problems.length - 20} more</li>}
        </ul>
      )}
    </section>
  );
}
