import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import type { Finding } from '@wembrel/core/findings/finding';
import { DrawCallCounter, joiningOf } from '@wembrel/core/plan/draw-calls';
import { useMemo } from 'react';
import type { Forecast } from '../../project/prediction.ts';
import { SCALES } from '../../project/scale-titles.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { count, counted } from '../../ui/format.ts';
import css from './Making.module.css';

/** How the sheets are made, on one line below the board. */
export function Making({
  decisions,
  forecast,
  findings,
  edit,
}: {
  decisions: MergeDecisions;
  forecast: Forecast;
  findings: Finding[];
  edit: ViewProps['edit'];
}) {
  const joined = useMemo(() => {
    const sheetOf = forecast.flows.map((flow) => flow.sheet);
    const calls = (join: boolean) =>
      new DrawCallCounter(forecast.planSlots, joiningOf({ join, keepAll: decisions.keepAll })).count(sheetOf);
    return calls(false) - calls(true);
  }, [forecast, decisions.keepAll]);
  const duplicates = findings.reduce(
    (sum, finding) => sum + (finding.code === 'duplicate-mesh' ? (finding.saves.vertices ?? 0) : 0),
    0,
  );
  const set = (label: string, part: Partial<MergeDecisions>) => edit(label, (now) => ({ ...now, ...part }));
  return (
    <section className={css.bar} aria-label="How the sheets are made">
      <label title="Normal maps of turned islands are computed anew.">
        Rotation
        <select
          value={decisions.rotate}
          onChange={(event) =>
            set(`Rotation: ${event.target.selectedOptions[0].text}`, {
              rotate: event.target.value as MergeDecisions['rotate'],
            })
          }
        >
          <option value="free">free</option>
          <option value="quarter">90° steps</option>
          <option value="none">never</option>
        </select>
      </label>
      <label title="Relative: as sharp as the sources, relative to each other. Even: the same px/m everywhere. By detail: as sharp as what the pictures really resolve.">
        Island size
        <select
          value={decisions.scale}
          onChange={(event) =>
            set(SCALES[event.target.value as MergeDecisions['scale']].done, {
              scale: event.target.value as MergeDecisions['scale'],
            })
          }
        >
          {Object.entries(SCALES).map(([k, { title }]) => (
            <option key={k} value={k}>
              {title}
            </option>
          ))}
        </select>
      </label>
      <label>
        Samples
        <select
          value={decisions.samples}
          onChange={(event) =>
            set(`${event.target.value} samples per texel`, {
              samples: Number(event.target.value) as MergeDecisions['samples'],
            })
          }
        >
          {[1, 4, 9, 16].map((n) => (
            <option key={n} value={n}>
              {n}
            </option>
          ))}
        </select>
      </label>
      <label title="A slot whose texture repeats more often across an island is kept apart.">
        Bake tiling up to
        <select
          value={decisions.maxRepeats}
          onChange={(event) => set(`Repeats up to ${event.target.value}`, { maxRepeats: Number(event.target.value) })}
        >
          {[1, 2, 3, 4, 6, 8, 12, 16, 24, 32, 64].map((n) => (
            <option key={n} value={n}>
              {n}×
            </option>
          ))}
        </select>
      </label>
      <label title="Models are handed over with their own materials, mended as the survey was told.">
        <input
          type="checkbox"
          checked={decisions.keepAll}
          onChange={(event) =>
            set(event.target.checked ? 'Keep all materials' : 'Merge by the plan', { keepAll: event.target.checked })
          }
        />
        Keep all materials
      </label>
      <label title="Slots whose class saves no draw call, no texture and no memory are kept apart unless you route them.">
        <input
          type="checkbox"
          checked={decisions.mergeAll}
          onChange={(event) =>
            set(event.target.checked ? 'Merge without gain' : 'Merge only with a gain', {
              mergeAll: event.target.checked,
            })
          }
        />
        Merge without gain
      </label>
      <label title="Primitives of one mesh are joined in any case. Not where something animates, skins, instances or names them apart.">
        <input
          type="checkbox"
          checked={decisions.join}
          onChange={(event) =>
            set(event.target.checked ? 'Join across nodes' : 'Leave nodes as they are', { join: event.target.checked })
          }
        />
        Join across nodes <em>{joined > 0 ? `−${counted(joined, 'draw call')}` : 'saves nothing'}</em>
      </label>
      {(duplicates > 0 || decisions.repairs.makeInstances) && (
        <label title="Equal meshes become placings of one. Parts that are drawn several times are not joined.">
          <input
            type="checkbox"
            checked={decisions.repairs.makeInstances}
            onChange={(event) =>
              set(event.target.checked ? 'Make instances' : 'Leave equal meshes as they are', {
                repairs: { ...decisions.repairs, makeInstances: event.target.checked },
              })
            }
          />
          Make instances of equal meshes <em>{duplicates > 0 ? `−${count(duplicates)} GPU vertices` : ''}</em>
        </label>
      )}
      <label title="Otherwise all models share the texture files.">
        <input
          type="checkbox"
          checked={decisions.embed}
          onChange={(event) =>
            set(event.target.checked ? 'Textures inside each GLB' : 'Textures beside the GLBs', {
              embed: event.target.checked,
            })
          }
        />
        Textures inside each GLB
      </label>
    </section>
  );
}
