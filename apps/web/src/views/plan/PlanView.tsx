import { useQueryClient } from '@tanstack/react-query';
import { marginForMip, protectedMip } from '@wembrel/core/plan/decisions';
import { useState } from 'react';
import type { MergeDecisions } from '../../contract/project.ts';
import { Check, Choice, Field, NumberField } from '../../ui/Field.tsx';
import { indexColour } from '../../ui/format.ts';
import { EmptyState, ErrorLine } from '../../ui/Notice.tsx';
import frame from '../../ui/View.module.css';
import { newest, useResult } from '../workbench/api.ts';
import { editsOf } from '../workbench/edits.ts';
import type { ViewProps } from '../workbench/Workbench.tsx';
import css from './PlanView.module.css';

const SIZES = [256, 512, 1024, 2048, 4096, 8192];

/** Which slots are merged onto sheets, and how the sheets are made. Every change is kept at once. */
export function PlanView({ project }: ViewProps) {
  const client = useQueryClient();
  const [problem, setProblem] = useState<string | null>(null);
  const d = project.decisions;
  const last = newest(project, 'proof', 'final');
  const { data: result } = useResult(last?.id);

  const change = async (part: Partial<MergeDecisions>) => {
    setProblem(null);
    try {
      await editsOf(project.id).change(client, part);
    } catch (e) {
      setProblem((e as Error).message);
    }
  };

  const slots = new Map<string, string[]>();
  for (const f of project.survey?.files ?? [])
    for (const s of f.slotNames ?? []) slots.set(s, [...(slots.get(s) ?? []), f.path]);
  const names = [...slots.keys()];
  const mip = protectedMip(d.margin);
  return (
    <section className={frame.view}>
      <header className={frame.head}>
        <h1>Plan</h1>
        <p>
          {names.length - names.filter((n) => d.keepApart.includes(n)).length} of {names.length} slots go onto{' '}
          {d.sheets === 1 ? 'one sheet' : `${d.sheets} sheets`}
        </p>
      </header>
      <div className={`${frame.body} ${css.body}`}>
        <section className={css.slots}>
          {problem && <ErrorLine>{problem}</ErrorLine>}
          {names.length === 0 && (
            <EmptyState title="No slots yet">Add models on the Survey page; their slots are listed here.</EmptyState>
          )}
          {names.length > 0 && (
            <table>
              <thead>
                <tr>
                  <th>Slot</th>
                  <th className={css.left}>In</th>
                  <th className={css.left}>Goes to</th>
                </tr>
              </thead>
              <tbody>
                {names.map((name, i) => {
                  const apart = d.keepApart.includes(name);
                  const forced = result?.keptApart.find((k) => k.slot === name && k.code !== 'named');
                  return (
                    <tr key={name}>
                      <td>
                        <span className={css.swatch} style={{ background: indexColour(i) }}>
                          {i + 1}
                        </span>
                        {name}
                      </td>
                      <td className={css.left}>
                        {slots.get(name)?.length === 1 ? slots.get(name)?.[0] : `${slots.get(name)?.length} models`}
                      </td>
                      <td className={css.left}>
                        <select
                          aria-label={`Where ${name} goes`}
                          value={apart ? 'apart' : 'sheet'}
                          onChange={(e) =>
                            void change({
                              keepApart:
                                e.target.value === 'apart'
                                  ? [...d.keepApart, name]
                                  : d.keepApart.filter((k) => k !== name),
                            })
                          }
                        >
                          <option value="sheet">sheet</option>
                          <option value="apart">kept apart</option>
                        </select>
                        {forced && !apart && <span className={css.why}>kept apart: {forced.reason}</span>}
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
          )}
        </section>
        <aside className={css.form} aria-label="Sheets">
          <h2>Sheets</h2>
          <Field label="Name">
            {(id) => (
              <input
                id={id}
                className={css.text}
                defaultValue={d.sheetName}
                key={d.sheetName}
                onBlur={(e) => e.target.value !== d.sheetName && void change({ sheetName: e.target.value })}
              />
            )}
          </Field>
          <Choice
            label="Side"
            value={String(d.size)}
            options={SIZES.map((s) => ({ value: String(s), label: `${s} px` }))}
            onChange={(v) => void change({ size: Number(v) })}
          />
          <NumberField
            label="How many"
            unit="sheets"
            value={d.sheets}
            min={1}
            max={16}
            onCommit={(sheets) => void change({ sheets })}
          />
          <NumberField
            label="Margin"
            unit="px"
            value={d.margin}
            min={0}
            max={256}
            onCommit={(margin) => void change({ margin })}
            note={
              mip < 0
                ? `Too small even for mip 0; ${marginForMip(0)} px protects it.`
                : `Keeps islands apart down to mip ${mip}; ${marginForMip(mip + 1)} px would protect mip ${mip + 1}.`
            }
          />
          <Choice
            label="Turn islands"
            value={d.rotate}
            options={[
              { value: 'quarter', label: 'quarter turns' },
              { value: 'none', label: 'never' },
            ]}
            onChange={(rotate) => void change({ rotate })}
            note="Normal maps of turned islands are computed anew."
          />
          <Choice
            label="Island size"
            value={d.scale}
            options={[
              { value: 'relative', label: 'relative' },
              { value: 'even', label: 'even density' },
            ]}
            onChange={(scale) => void change({ scale })}
            note={
              d.scale === 'relative' ? 'As sharp as the sources, relative to each other.' : 'The same px/m everywhere.'
            }
          />
          <Choice
            label="Samples per texel"
            value={String(d.samples)}
            options={[1, 4, 9, 16].map((s) => ({ value: String(s), label: `${s} (${Math.sqrt(s)}×${Math.sqrt(s)})` }))}
            onChange={(v) => void change({ samples: Number(v) as MergeDecisions['samples'] })}
          />
          <NumberField
            label="Bake in repeats up to"
            unit="×"
            value={d.maxRepeats}
            min={1}
            max={64}
            onCommit={(maxRepeats) => void change({ maxRepeats })}
            note="A slot whose texture repeats more often is kept apart."
          />
          <h2>Models</h2>
          <Check
            label="Join parts that share a slot"
            checked={d.join}
            onChange={(join) => void change({ join })}
            note="Not where something animates, skins, instances or names them apart."
          />
          <Check
            label="Put textures inside each GLB"
            checked={d.embed}
            onChange={(embed) => void change({ embed })}
            note="Otherwise all models share the files."
          />
        </aside>
      </div>
    </section>
  );
}
