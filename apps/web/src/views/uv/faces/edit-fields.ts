import type { FaceEdit, FaceEditKind, FaceEditOf } from '@wembrel/core/decisions/face-decisions';

type Of<E, V> = V | ((edit: E) => V);

interface Common<E> {
  /** Where it is said at all. */
  when?: (edit: E) => boolean;
  label: Of<E, string>;
}

/** One thing that can be said of a change: how it is shown, and what it sets. */
export type EditField<E> = Common<E> &
  (
    | {
        as: 'number';
        key: keyof E & string;
        unit: Of<E, string>;
        min: Of<E, number>;
        max: Of<E, number>;
        step?: number;
        whole?: boolean;
        note?: Of<E, string | undefined>;
      }
    | {
        as: 'choice';
        options: { value: string; label: string }[];
        get: (edit: E) => string;
        set: (value: string) => Partial<E>;
      }
    | { as: 'check'; get: (edit: E) => boolean; set: (on: boolean) => Partial<E> }
    | { as: 'colour'; key: keyof E & string }
    /** Of a slot; `mayStay`: empty where faces keep theirs. */
    | { as: 'slot'; mayStay?: boolean }
  );

/** A choice of the values of one key. */
function choice<E>(key: keyof E & string, label: string, options: [string, string][], when?: (edit: E) => boolean) {
  const of = options.map(([value, title]) => ({ value, label: title }));
  const field: EditField<E> = {
    as: 'choice',
    label,
    options: of,
    get: (e) => String(e[key]),
    set: (value) => ({ [key]: value }) as Partial<E>,
    when,
  };
  return field;
}

const check = <E>(key: keyof E & string, label: string): EditField<E> => ({
  as: 'check',
  label,
  get: (e) => Boolean(e[key]),
  set: (on) => ({ [key]: on }) as Partial<E>,
});

const SETS = ['first', 'second (baked light)', 'third', 'fourth'];

const uvSet = <E extends { set: number }>(): EditField<E> => ({
  as: 'choice',
  label: 'UV set',
  options: SETS.map((label, i) => ({ value: String(i), label })),
  get: (e) => String(e.set),
  set: (v) => ({ set: Number(v) }) as Partial<E>,
});

const slot = <E>(): EditField<E> => ({ as: 'slot', label: 'Slot' });
const otherSlot = <E>(): EditField<E> => ({ as: 'slot', label: 'Slot', mayStay: true });

const AXES: [string, string][] = [
  ['x', 'X'],
  ['y', 'Y (up)'],
  ['z', 'Z'],
];

type Fields = { [K in FaceEditKind]: EditField<FaceEditOf<K>>[] };

/** What can be said of each kind of change, in order. Mixes and palettes have lists besides. */
const FIELDS: Fields = {
  slot: [slot()],
  swatch: [
    slot(),
    { as: 'colour', key: 'colour', label: 'Colour' },
    {
      as: 'check',
      label: 'gradient',
      get: (e) => e.upper !== null,
      set: (on) => ({ upper: on ? '#f2f2f2' : null }),
    },
    { as: 'colour', key: 'upper', label: 'At its upper end', when: (e) => e.upper !== null },
    choice('axis', 'Along', AXES, (e) => e.upper !== null),
    { as: 'number', key: 'roughness', label: 'Roughness', unit: '', min: 0, max: 1, step: 0.05 },
    { as: 'number', key: 'metallic', label: 'Metallic', unit: '', min: 0, max: 1, step: 0.05 },
    { as: 'colour', key: 'emissive', label: 'Glow' },
  ],
  unwrap: [
    otherSlot(),
    choice('method', 'Laid flat', [
      ['charts', 'few charts, little stretch'],
      ['strips', 'rows of quads as rectangles'],
      ['box', 'from six sides'],
      ['planar', 'along an axis'],
      ['cylindrical', 'around an axis'],
    ]),
    choice('axis', 'Axis', AXES, (e) => e.method === 'planar' || e.method === 'cylindrical'),
    {
      as: 'number',
      key: 'stretch',
      label: 'Stretch up to',
      unit: '',
      min: 1.0001,
      max: 10,
      step: 0.01,
      when: (e) => e.method === 'charts' || e.method === 'strips',
    },
    {
      as: 'number',
      key: 'cutAngle',
      label: 'Cut at bends over',
      unit: '°',
      min: 1,
      max: 180,
      note: (e) => (e.cutAngle === 180 ? '180: nowhere. Borders of groups are always cuts.' : undefined),
      when: (e) => e.method === 'charts' || e.method === 'strips',
    },
    { as: 'number', key: 'margin', label: 'Margin', unit: 'px', min: 0, max: 256 },
    { as: 'number', key: 'size', label: 'On', unit: 'px', min: 16, max: 8192, whole: true },
    uvSet(),
    check('together', 'all slots in one 0–1'),
  ],
  project: [
    otherSlot(),
    choice('method', 'Seen', [
      ['box', 'from six sides'],
      ['planar', 'along an axis'],
      ['cylindrical', 'around an axis'],
    ]),
    choice('axis', 'Axis', AXES, (e) => e.method !== 'box'),
    { as: 'number', key: 'repeat', label: 'One repeat covers', unit: 'm', min: 0.0001, max: 100000, step: 0.1 },
    uvSet(),
  ],
  strip: [
    otherSlot(),
    {
      as: 'number',
      key: 'top',
      label: 'Strip from',
      unit: 'V',
      min: 0,
      max: (e) => Math.max(0, e.bottom - 0.001),
      step: 0.05,
    },
    {
      as: 'number',
      key: 'bottom',
      label: 'to',
      unit: 'V',
      min: (e) => Math.min(1, e.top + 0.001),
      max: 1,
      step: 0.05,
      note: '0 is the upper edge of the texture, 1 the lower one.',
    },
    choice('fit', 'Length', [
      ['proportion', 'in proportion'],
      ['metres', 'metres a repeat'],
      ['repeats', 'repeats in all'],
    ]),
    {
      as: 'number',
      key: 'amount',
      label: (e) => (e.fit === 'metres' ? 'One repeat covers' : 'Repeats'),
      unit: (e) => (e.fit === 'metres' ? 'm' : '×'),
      min: 0.0001,
      max: 100000,
      step: 0.5,
      when: (e) => e.fit !== 'proportion',
    },
    { as: 'number', key: 'offset', label: 'Begins at', unit: 'U', min: -1000, max: 1000, step: 0.05 },
    choice('along', 'Along', [
      ['long', 'the long side'],
      ['short', 'the short side'],
    ]),
    { as: 'number', key: 'bend', label: 'Pieces end at bends over', unit: '°', min: 1, max: 180 },
    check('straight', 'rows of quads exactly straight'),
    {
      as: 'check',
      label: 'both ends alike (second half mirrored)',
      get: (e) => e.ends === 'mirrored',
      set: (on) => ({ ends: on ? 'mirrored' : 'run' }),
    },
    check('flip', 'upside down'),
  ],
  cells: [
    choice('turns', 'Turned at random', [
      ['none', 'never'],
      ['half', 'by halves'],
      ['quarter', '90° steps'],
    ]),
    check('mirror', 'some mirrored'),
    choice('fit', 'Fit', [
      ['whole', 'to its corners'],
      ['proportion', 'in proportion'],
    ]),
    { as: 'number', key: 'seed', label: 'Seed', unit: '', min: 0, max: 0x7fffffff, whole: true },
  ],
  move: [
    { as: 'number', key: 'u', label: 'Right by', unit: 'U', min: -10000, max: 10000, step: 0.05 },
    { as: 'number', key: 'v', label: 'Down by', unit: 'V', min: -10000, max: 10000, step: 0.05 },
    { as: 'number', key: 'turn', label: 'Turned', unit: '°', min: -360, max: 360 },
    {
      as: 'number',
      key: 'scaleU',
      label: 'Wider by',
      unit: '×',
      min: -1000,
      max: 1000,
      step: 0.1,
      note: '−1 mirrors.',
    },
    { as: 'number', key: 'scaleV', label: 'Higher by', unit: '×', min: -1000, max: 1000, step: 0.1 },
    choice('about', 'About', [
      ['island', 'each island’s middle'],
      ['all', 'the middle of all'],
      ['origin', 'the upper left of 0–1'],
    ]),
    uvSet(),
  ],
  relax: [{ as: 'number', key: 'rounds', label: 'Rounds', unit: '×', min: 1, max: 200, whole: true }, uvSet()],
  join: [{ as: 'number', key: 'bend', label: 'Over bends up to', unit: '°', min: 0, max: 180 }, uvSet()],
  split: [
    {
      as: 'number',
      key: 'bend',
      label: 'At bends over',
      unit: '°',
      min: 0,
      max: 180,
      note: (e) => (e.bend === 180 ? '180: only where the groups end.' : undefined),
    },
    uvSet(),
  ],
  normals: [
    { as: 'number', key: 'angle', label: 'Hard above bends of', unit: '°', min: 0, max: 180 },
    {
      as: 'choice',
      label: 'Borders of islands',
      options: [
        { value: 'smooth', label: 'as they bend' },
        ...SETS.map((_, i) => ({ value: String(i), label: `hard, of UV set ${i}` })),
      ],
      get: (e) => (e.borders === null ? 'smooth' : String(e.borders)),
      set: (v) => ({ borders: v === 'smooth' ? null : Number(v) }),
    },
  ],
  tiles: [],
  swatches: [],
};

/** What can be said of a change now. */
export function fieldsOf<E extends FaceEdit>(edit: E): EditField<E>[] {
  return (FIELDS[edit.kind] as unknown as EditField<E>[]).filter((field) => field.when?.(edit) ?? true);
}

/** A value that may depend on the change. */
export const resolved = <E, V>(v: Of<E, V>, edit: E): V => (typeof v === 'function' ? (v as (edit: E) => V)(edit) : v);
