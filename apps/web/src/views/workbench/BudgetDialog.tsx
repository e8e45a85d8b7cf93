import { BUDGETS, type Budget, DEVICE_TITLES } from '@wembrel/core/decisions/budget';
import { useState } from 'react';
import type { ProjectView } from '../../contract/project.ts';
import { FORMAT_TITLES } from '../../project/format-titles.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import css from './BudgetDialog.module.css';

const MIB = 1024 ** 2;

const LINES: { key: keyof Omit<Budget, 'device' | 'format'>; title: string; unit: string; scale: number }[] = [
  { key: 'drawCalls', title: 'Draw calls', unit: '', scale: 1 },
  { key: 'textureBytes', title: 'Texture memory', unit: 'MiB', scale: MIB },
  { key: 'triangles', title: 'Triangles', unit: '', scale: 1 },
  { key: 'gpuVertices', title: 'GPU vertices', unit: '', scale: 1 },
  { key: 'largestTexture', title: 'Largest texture', unit: 'px', scale: 1 },
  { key: 'density', title: 'Density wanted', unit: 'px/m', scale: 1 },
];

/** What the scene may cost; starts from a class of device, every figure can be changed. */
export function BudgetDialog({
  project,
  edit,
  onClose,
}: {
  project: ProjectView;
  edit: ViewProps['edit'];
  onClose: () => void;
}) {
  const [draft, setDraft] = useState<Budget>(project.decisions.budget);
  return (
    <Dialog
      open
      title="Budget"
      about="What this scene may cost. The figures of a device are where to start from; change them to what yours allows."
      onClose={onClose}
    >
      <form
        className={css.form}
        onSubmit={(event) => {
          event.preventDefault();
          edit(`Budget: ${DEVICE_TITLES[draft.device]}`, (decisions) => ({ ...decisions, budget: draft }));
          onClose();
        }}
      >
        <label>
          Device
          <select
            value={draft.device}
            onChange={(event) => {
              const device = event.target.value as Budget['device'];
              setDraft(device === 'own' ? { ...draft, device } : BUDGETS[device]);
            }}
          >
            {Object.entries(DEVICE_TITLES).map(([k, t]) => (
              <option key={k} value={k}>
                {t}
              </option>
            ))}
          </select>
        </label>
        <label>
          Memory counted as
          <select
            value={draft.format}
            onChange={(event) => setDraft({ ...draft, format: event.target.value as Budget['format'] })}
          >
            {Object.entries(FORMAT_TITLES).map(([k, t]) => (
              <option key={k} value={k}>
                {t}
              </option>
            ))}
          </select>
        </label>
        {LINES.map(({ key, title, unit, scale }) => (
          <label key={key}>
            {title}
            <span className={css.number}>
              <input
                type="number"
                min={0}
                step="any"
                placeholder="no limit"
                value={draft[key] === null ? '' : draft[key] / scale}
                onChange={(event) =>
                  setDraft({
                    ...draft,
                    [key]: event.target.value === '' ? null : Math.max(0, Number(event.target.value)) * scale,
                  })
                }
              />
              {unit}
            </span>
          </label>
        ))}
        <footer className={css.foot}>
          <Button onClick={onClose}>Cancel</Button>
          <Button tone="main" type="submit">
            Apply budget
          </Button>
        </footer>
      </form>
    </Dialog>
  );
}
