import { useMemo } from 'react';
import type { ProjectView } from '../../contract/project.ts';
import { setAddress } from '../../project/address.ts';
import { startDecided } from '../../project/edits.ts';
import { selectSlots, useSelection } from '../../project/selection.ts';
import type { ViewName } from '../../project/stages.ts';
import { useFindings } from '../../project/use-findings.ts';
import { type FinderEntry, finderEntries } from './finder-entries.ts';

/** Everything that can be found in a project; for as long as it is looked for. */
export function useFinder(
  project: ProjectView,
  { go, step, onHelp }: { go: (view: ViewName) => void; step: (way: 'undo' | 'redo') => void; onHelp: () => void },
): FinderEntry[] {
  const findings = useFindings(project);
  return useMemo(() => {
    const codes = [...new Set(findings.map((finding) => finding.code))];
    return finderEntries(project, codes, {
      go,
      step,
      bake: (kind) => void startDecided(project.id, kind),
      download: (job) => window.location.assign(`/api/jobs/${job}/zip`),
      selectSlot: (slot) => {
        useSelection.setState({ model: project.survey?.slots[slot].model ?? null });
        selectSlots([slot]);
        go('plan');
      },
      selectModel: (model) => {
        useSelection.setState({ model });
        go('survey');
      },
      openFinding: (code) => {
        go('survey');
        setAddress('survey', 'finding', code);
      },
      showHelp: onHelp,
      showProjects: () => window.location.assign('/'),
    });
  }, [project, findings, go, step, onHelp]);
}
