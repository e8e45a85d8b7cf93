import type { PairingDecision } from '@wembrel/core/decisions/ray-decisions';
import { sheetOf } from '@wembrel/core/rays/pairing/pairings';
import type { ObjectRef } from '@wembrel/core/rays/target/scene-objects';
import type { RaySheetView, ReachesView } from '../../../contract/project.ts';
import { Button } from '../../../ui/Button.tsx';
import { Field, NumberField } from '../../../ui/Field.tsx';
import { count, percent } from '../../../ui/format.ts';
import { length } from './lengths.ts';
import css from './PairingList.module.css';
import { keyOf, type ProjectObject } from './pairing-objects.ts';

export interface PairingListProps {
  pairings: readonly PairingDecision[];
  objects: readonly ProjectObject[];
  alone: readonly ProjectObject[];
  /** What the newest bake says of each, by name. */
  baked: ReadonlyMap<string, RaySheetView['pairings'][number]>;
  /** What else the high-polys of a pairing fit nearly as well, by its name. */
  doubts: ReadonlyMap<string, string[]>;
  stale: boolean;
  reaches: ReachesView | undefined;
  chosen: number;
  choose: (i: number) => void;
  change: (label: string, i: number, next: PairingDecision) => void;
  remove: (i: number) => void;
  make: () => void;
  /** Bakes a proof of one alone; null while something is being baked. */
  prove: ((name: string) => void) | null;
  byNames: (() => void) | null;
  byPlace: (() => void) | null;
}

const state = (b: RaySheetView['pairings'][number] | undefined, stale: boolean): string => {
  if (!b) return 'not baked';
  const bad = b.missed + b.stray + b.skewed + b.clash;
  return `${stale ? 'out of date, ' : ''}${bad === 0 ? 'no fault' : `${percent(bad / Math.max(1, b.texels), 1)} at fault`}`;
};

/** The pairings with their state; the one that is open can be changed. */
export function PairingList(pairingListProps: PairingListProps) {
  return (
    <div className={css.pairings}>
      <div className={css.actions}>
        <Button
          onClick={pairingListProps.byNames ?? undefined}
          disabled={!pairingListProps.byNames}
          title="Names such as post_high and post_low"
        >
          Pair by names
        </Button>
        <Button
          onClick={pairingListProps.byPlace ?? undefined}
          disabled={!pairingListProps.byPlace}
          title="High-polys that stand beside their low-polys"
        >
          Pair by place
        </Button>
        <Button onClick={pairingListProps.make}>New</Button>
      </div>
      <ul>
        {pairingListProps.pairings.map((pairing, i) => (
          <li key={pairing.name} className={i === pairingListProps.chosen ? css.open : ''}>
            <button
              type="button"
              className={css.line}
              aria-expanded={i === pairingListProps.chosen}
              onClick={() => pairingListProps.choose(i)}
            >
              <b>{pairing.name}</b>
              <span>{state(pairingListProps.baked.get(pairing.name), pairingListProps.stale)}</span>
            </button>
            {pairingListProps.doubts.get(pairing.name)?.map((doubt) => (
              <p key={doubt} className={css.doubt}>
                {doubt} nearly as well
              </p>
            ))}
            {i === pairingListProps.chosen && <OpenPairing pairing={pairing} index={i} list={pairingListProps} />}
          </li>
        ))}
      </ul>
      {pairingListProps.alone.length > 0 && (
        <details>
          <summary>
            {pairingListProps.alone.length} {pairingListProps.alone.length === 1 ? 'mesh' : 'meshes'} in no pairing
          </summary>
          <ul className={css.alone}>
            {pairingListProps.alone.slice(0, 200).map((projectObject) => (
              <li key={keyOf(projectObject)} title={projectObject.path}>
                {projectObject.name} <em>{count(projectObject.facts.triangles)} triangles</em>
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}

function OpenPairing({
  pairing: q,
  index,
  list: pairingListProps,
}: {
  pairing: PairingDecision;
  index: number;
  list: PairingListProps;
}) {
  const baked = pairingListProps.baked.get(q.name);
  const found = pairingListProps.reaches?.pairings.find((pairing) => pairing.name === q.name);
  const set = (label: string, part: Partial<PairingDecision>) =>
    pairingListProps.change(label, index, { ...q, ...part });
  const reach = (which: 'outward' | 'inward') => {
    const value = q[which] ?? baked?.[which] ?? null;
    return (
      <NumberField
        label={`${which === 'outward' ? 'Outward' : 'Inward'} reach`}
        unit="mm"
        value={value === null ? 0 : Number((value * 1000).toPrecision(4))}
        min={0}
        max={1e9}
        note={q[which] !== null ? undefined : value === null ? 'measured when it is baked' : 'measured'}
        onCommit={(mm) =>
          set(`${which === 'outward' ? 'Outward' : 'Inward'} reach of ${q.name}`, { [which]: mm / 1000 })
        }
      />
    );
  };
  const alone = new Set(pairingListProps.alone.map(keyOf));
  const one = (label: string, value: ObjectRef | null, none: string, put: (r: ObjectRef | null) => void) => (
    <Field label={label}>
      {(id) => (
        <select
          id={id}
          value={value ? keyOf(value) : ''}
          onChange={(event) => {
            const projectObject = pairingListProps.objects.find((object) => keyOf(object) === event.target.value);
            put(projectObject ? { path: projectObject.path, name: projectObject.name } : null);
          }}
        >
          <option value="">{none}</option>
          {pairingListProps.objects
            .filter((object) => alone.has(keyOf(object)) || (value && keyOf(value) === keyOf(object)))
            .map((object) => (
              <option key={keyOf(object)} value={keyOf(object)}>
                {object.name}
              </option>
            ))}
        </select>
      )}
    </Field>
  );
  return (
    <div className={css.pairing}>
      <Members
        title="high-poly"
        refs={q.high}
        list={pairingListProps}
        put={(high) => set(`High-polys of ${q.name}`, { high })}
      />
      <Members
        title="low-poly"
        refs={q.low}
        list={pairingListProps}
        put={(low) => set(`Low-polys of ${q.name}`, { low })}
      />
      {reach('outward')}
      {reach('inward')}
      {q.low.length > 1 && <Shares pairing={q} set={set} />}
      {(q.outward !== null || q.inward !== null) && (
        <Button onClick={() => set(`Measured reaches for ${q.name}`, { outward: null, inward: null })}>
          Take the measured ones
        </Button>
      )}
      {found && (
        <Curve found={found} take={(outward, inward) => set(`Reaches found for ${q.name}`, { outward, inward })} />
      )}
      <Field label="Name of map set">
        {(id) => (
          <input
            id={id}
            key={q.sheet ?? ''}
            defaultValue={q.sheet ?? ''}
            placeholder={sheetOf({ ...q, sheet: null })}
            onBlur={(event) => {
              const sheet = event.target.value.trim() || null;
              if (sheet !== q.sheet) set(`Maps of ${q.name}`, { sheet });
            }}
          />
        )}
      </Field>
      {one('Cage', q.cage, 'none: reaches', (cage) => set(`Cage of ${q.name}`, { cage }))}
      {one('Casting surface', q.surface, 'the low-poly', (surface) => set(`Casting surface of ${q.name}`, { surface }))}
      {q.move.some((v) => v !== 0) && (
        <p className={css.hint}>The high-poly is moved by {q.move.map((v) => v.toFixed(3)).join(', ')} m first.</p>
      )}
      {baked && baked.outside > 0 && (
        <p className={css.hint}>{count(baked.outside)} triangles lie outside 0 to 1 of their UVs and are not baked.</p>
      )}
      <Button
        onClick={() => pairingListProps.prove?.(q.name)}
        disabled={!pairingListProps.prove || q.high.length === 0 || q.low.length === 0}
        title="Only this pairing, at a quarter of the side"
      >
        Proof of this pairing
      </Button>
      <Button tone="quiet" onClick={() => pairingListProps.remove(index)}>
        Delete pairing
      </Button>
    </div>
  );
}

/** Each object of the low-poly may have its own share of the outward reach. */
function Shares({
  pairing,
  set,
}: {
  pairing: PairingDecision;
  set: (label: string, part: Partial<PairingDecision>) => void;
}) {
  const own = Object.values(pairing.offsets).filter((v) => v !== 1).length;
  return (
    <details>
      <summary>Outward reach of single bodies{own > 0 && `: ${own} of their own`}</summary>
      {pairing.low.map((object) => (
        <NumberField
          key={keyOf(object)}
          label={object.name}
          unit="%"
          value={Math.round((pairing.offsets[object.name] ?? 1) * 100)}
          min={0}
          max={10_000}
          step={10}
          onCommit={(v) => {
            const { [object.name]: _, ...others } = pairing.offsets;
            set(`Reach of ${object.name}`, { offsets: v === 100 ? others : { ...others, [object.name]: v / 100 } });
          }}
        />
      ))}
    </details>
  );
}

function Members({
  title,
  refs,
  list,
  put,
}: {
  title: string;
  refs: readonly ObjectRef[];
  list: PairingListProps;
  put: (refs: ObjectRef[]) => void;
}) {
  return (
    <div className={css.members}>
      <h3>{title}</h3>
      <ul>
        {refs.map((ref) => {
          const object = list.objects.find((object) => keyOf(object) === keyOf(ref));
          return (
            <li key={keyOf(ref)} title={ref.path} className={object ? '' : css.faulty}>
              <span>{ref.name}</span>
              <em>{object ? count(object.facts.triangles) : 'not found'}</em>
              <button
                type="button"
                aria-label={`Take ${ref.name} out`}
                onClick={() => put(refs.filter((x) => x !== ref).map((x) => ({ ...x })))}
              >
                ×
              </button>
            </li>
          );
        })}
      </ul>
      {list.alone.length > 0 && (
        <select
          value=""
          aria-label={`Add a ${title}`}
          onChange={(event) => {
            const projectObject = list.alone.find((projectObject) => keyOf(projectObject) === event.target.value);
            if (projectObject)
              put([...refs.map((x) => ({ ...x })), { path: projectObject.path, name: projectObject.name }]);
          }}
        >
          <option value="">add …</option>
          {list.alone.map((projectObject) => (
            <option key={keyOf(projectObject)} value={keyOf(projectObject)}>
              {projectObject.name} ({count(projectObject.facts.triangles)})
            </option>
          ))}
        </select>
      )}
    </div>
  );
}

/** Faults by outward reach, and what was found best. */
function Curve({
  found,
  take,
}: {
  found: ReachesView['pairings'][number];
  take: (outward: number, inward: number) => void;
}) {
  const { points, best } = found.sweep;
  // The first half tries outward reaches, with one inward reach.
  const tried = points.filter((point) => point.inward === points[0].inward).slice(0, points.length / 2);
  const most = Math.max(0.01, ...tried.map((sweepPoint) => sweepPoint.missed + sweepPoint.stray + sweepPoint.cut));
  const widest = Math.max(...tried.map((sweepPoint) => sweepPoint.outward));
  const at = (sweepPoint: (typeof tried)[number], v: number) =>
    `${((sweepPoint.outward / widest) * 196 + 2).toFixed(1)} ${(42 - (v / most) * 38).toFixed(1)}`;
  return (
    <div className={css.curve}>
      <svg viewBox="0 0 200 46" role="img" aria-label="Faults by outward reach">
        <path className={css.axis} d="M2 42H198" />
        <path
          className={css.missedCurve}
          d={`M${tried.map((sweepPoint) => at(sweepPoint, sweepPoint.missed)).join('L')}`}
        />
        <path
          className={css.strayCurve}
          d={`M${tried.map((sweepPoint) => at(sweepPoint, sweepPoint.stray)).join('L')}`}
        />
        <path className={css.cutCurve} d={`M${tried.map((sweepPoint) => at(sweepPoint, sweepPoint.cut)).join('L')}`} />
        <line
          className={css.bestLine}
          x1={(best.outward / widest) * 196 + 2}
          x2={(best.outward / widest) * 196 + 2}
          y1={2}
          y2={42}
        />
      </svg>
      <p>
        <span className={css.keyMissed}>missed</span> <span className={css.keyStray}>stray</span>{' '}
        <span className={css.keyCut}>cut off</span> up to {percent(most, 1)}, by outward reach to {length(widest)}
      </p>
      <Button onClick={() => take(best.outward, best.inward)}>
        Take {length(best.outward)} and {length(best.inward)}
      </Button>
    </div>
  );
}
