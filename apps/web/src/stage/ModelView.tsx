import { useEffect, useImperativeHandle, useRef, useState } from 'react';
import { ErrorLine } from '../ui/Notice.tsx';
import { DrawnLine } from './DrawnLine.tsx';
import type { LiveMaps, LiveMask } from './live-sheet.ts';
import css from './ModelView.module.css';
import { type ModelReader, ModelStage, type PickedFace, type StageMode, type Tint } from './model-stage.ts';
import type { FaceLayer, LitFaces } from './placed.ts';
import type { Mark } from './rings.ts';
import { type BrushPoint, useBrush } from './use-brush.ts';
import { type DrawnOutline, useOutline } from './use-outline.ts';

/** One stage goes from view to view, with its graphics context, light and loaded models. */
let idle: ModelStage | null = null;

function takeStage(): ModelStage {
  const stage = idle ?? new ModelStage();
  idle = null;
  return stage;
}

function giveBack(stage: ModelStage): void {
  stage.reset();
  if (idle) stage.dispose();
  else idle = stage;
}

interface LiveLook {
  slotName: string;
  maps: LiveMaps | null;
  second?: LiveMaps | null;
  mask?: LiveMask | null;
}

interface Overlay {
  nodes: ReadonlySet<string>;
  /** m */
  move: readonly [number, number, number];
}

export interface ModelViewProps {
  label: string;
  /** Address of the model, and of a second one to compare with. */
  url: string | null;
  second?: string | null;
  mode?: StageMode;
  split?: number;
  /** Colour of each part; null shows the model as it is. */
  tint?: Tint | null;
  /** Parts that are not shown. */
  hidden?: ReadonlySet<number> | null;
  wire?: boolean;
  /** Only the vertex colours. */
  bare?: boolean;
  /** A picture to show on the faces instead of their materials, and the name of the material that it belongs to. */
  map?: string | null;
  mapFor?: string | null;
  /** Faces that are outlined. */
  lit?: LitFaces | null;
  litColour?: string;
  /** Colours over faces, and faces that are not shown. */
  layers?: readonly FaceLayer[];
  hiddenFaces?: LitFaces | null;
  /** Where a raking light comes from, degrees; null: the usual soft one. */
  sun?: number | null;
  /** Of `over`: nodes of the second model that are shown, and how it is moved. */
  overlay?: Overlay | null;
  /** Balls and lines that are drawn over the first model. */
  rings?: readonly Mark[];
  /** Lines on parts, see `ModelStage.setLines`. */
  lines?: ReadonlyMap<number, Float32Array> | null;
  /** Maps that are no files, on the slot of a name, of both sides; and where something acts on the first, hatched. */
  live?: LiveLook | null;
  /** A press on the model and its way are told instead of turning it; beside the model it turns. */
  onBrush?: (stroke: BrushPoint) => void;
  onPick?: (face: PickedFace | null, event: { add: boolean; remove: boolean }) => void;
  /** A box or a line was drawn around something, px of the picture: with Shift, as on sheets. */
  onOutline?: (outline: DrawnOutline) => void;
  /** Called with what may be asked of a model once it is loaded. */
  onLoaded?: (model: ModelReader) => void;
  onReady?: (ready: boolean) => void;
  onDistance?: (metres: number) => void;
  onKey?: (key: string) => boolean;
  ref?: React.Ref<ModelViewHandle>;
}

export interface ModelViewHandle {
  frame: () => void;
  blink: (side: 0 | 1) => void;
  setDistance: (metres: number) => void;
  /** See `ModelStage.lookFrom`. */
  lookFrom: (eye: readonly [number, number, number], times?: number) => void;
  /** How many times the difference is shown. */
  setGain: (gain: number) => void;
  /** The face at a point of the window. */
  pickAt: (clientX: number, clientY: number) => PickedFace | null;
}

const LINE_COLOUR = '#ffd84a';
const NO_LAYERS: readonly FaceLayer[] = [];
const NO_RINGS: readonly Mark[] = [];
const NO_MOVE = [0, 0, 0] as const;

const MOVES: Record<string, [number, number, number]> = {
  ArrowLeft: [-0.15, 0, 1],
  ArrowRight: [0.15, 0, 1],
  ArrowUp: [0, -0.1, 1],
  ArrowDown: [0, 0.1, 1],
  '+': [0, 0, 0.87],
  '=': [0, 0, 0.87],
  '-': [0, 0, 1.15],
};

/**
 * A 3D picture: drag turns, right drag moves, wheel goes nearer; arrows, + and − do the same, F fits. Where something can be selected, a box is
 * drawn with Shift and a line with Shift and Alt.
 */
export function ModelView({
  label,
  url,
  second,
  mode = 'one',
  split = 0.5,
  tint = null,
  hidden = null,
  wire = false,
  bare = false,
  map = null,
  mapFor = null,
  lit = null,
  litColour = '#0f7c8a',
  layers = NO_LAYERS,
  hiddenFaces = null,
  lines = null,
  sun = null,
  overlay = null,
  rings = NO_RINGS,
  live = null,
  onBrush,
  onPick,
  onOutline,
  onLoaded,
  onReady,
  onDistance,
  onKey,
  ref,
}: ModelViewProps) {
  const box = useRef<HTMLDivElement>(null);
  const [stage, setStage] = useState<ModelStage | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [loads, setLoads] = useState(0);
  const pressed = useRef<{ x: number; y: number } | null>(null);
  const told = useRef(onReady);
  told.current = onReady;
  const loaded = useRef(onLoaded);
  loaded.current = onLoaded;

  useEffect(() => {
    if (!box.current) return;
    let mine: ModelStage;
    try {
      mine = takeStage();
    } catch {
      setProblem('this browser gives no 3D picture (WebGL 2 is needed)');
      return;
    }
    mine.canvas.tabIndex = 0;
    mine.canvas.setAttribute('role', 'img');
    box.current.append(mine.canvas);
    setStage(mine);
    mine.frame();
    return () => {
      setStage(null);
      mine.canvas.remove();
      giveBack(mine);
    };
  }, []);
  useEffect(() => {
    stage?.canvas.setAttribute('aria-label', `${label}; arrows turn, plus and minus move nearer and farther, F fits`);
  }, [stage, label]);
  useEffect(() => {
    if (!stage || !url) return;
    told.current?.(false);
    Promise.all([stage.load(0, url), second ? stage.load(1, second) : null]).then(
      () => {
        setProblem(null);
        setLoads((n) => n + 1);
        loaded.current?.(stage);
        told.current?.(true);
      },
      (error: Error) => setProblem(`the model could not be shown: ${error.message}`),
    );
  }, [stage, url, second]);
  useEffect(() => stage?.show(mode, split), [stage, mode, split]);
  useEffect(() => stage?.setTint(tint), [stage, tint]);
  useEffect(() => stage?.setHidden(hidden), [stage, hidden]);
  useEffect(() => stage?.setWire(wire), [stage, wire]);
  useEffect(() => stage?.setBare(bare), [stage, bare]);
  useEffect(() => {
    if (!stage) return;
    stage.mapFor = mapFor;
    stage.setMap(map).catch(() => setProblem('the map could not be shown'));
  }, [stage, map, mapFor]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a newly loaded model gets them as well
  useEffect(() => stage?.setHiddenFaces(hiddenFaces), [stage, hiddenFaces, loads]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a newly loaded model gets them as well
  useEffect(() => stage?.setLayers(layers), [stage, layers, loads]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a newly loaded model gets them as well
  useEffect(() => stage?.setOutlined(lit, litColour), [stage, lit, litColour, loads]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a newly loaded model gets them as well
  useEffect(() => stage?.setLines(lines, LINE_COLOUR), [stage, lines, loads]);
  useEffect(() => stage?.setLive(0, live?.slotName ?? '', live?.maps ?? null), [stage, live?.slotName, live?.maps]);
  useEffect(() => stage?.setLive(1, live?.slotName ?? '', live?.second ?? null), [stage, live?.slotName, live?.second]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a newly loaded model is hatched as well
  useEffect(
    () => stage?.setHatch(live?.slotName ?? '', live?.mask ?? null),
    [stage, live?.slotName, live?.mask, loads],
  );
  useEffect(() => stage?.setSun(sun), [stage, sun]);
  useEffect(() => stage?.setRings(rings), [stage, rings]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a newly loaded model is veiled as well
  useEffect(() => stage?.setOverlay(overlay?.nodes ?? null, overlay?.move ?? NO_MOVE), [stage, overlay, loads]);
  useEffect(() => {
    if (stage) stage.onDistance = onDistance ?? null;
  }, [stage, onDistance]);
  useImperativeHandle(
    ref,
    () => ({
      frame: () => stage?.frame(),
      blink: (side) => stage?.blink(side),
      setDistance: (metres) => {
        if (stage) stage.distance = metres;
      },
      lookFrom: (eye, times) => stage?.lookFrom(eye, times),
      setGain: (gain) => stage?.setGain(gain),
      pickAt: (x, y) => {
        const frame = box.current?.getBoundingClientRect();
        return frame && stage ? stage.pick(x - frame.left, y - frame.top) : null;
      },
    }),
    [stage],
  );
  const brush = useBrush(stage, onBrush);
  const drawn = useOutline((still) => stage?.hold(still), onOutline);
  const point = (event: React.PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top };
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the canvas inside takes focus and keys
    <div
      ref={box}
      className={css.box}
      data-loads={loads}
      onPointerDownCapture={(event) => {
        if (!brush.begin(event)) drawn.begin(event);
      }}
      onPointerDown={(event) => {
        pressed.current = point(event);
      }}
      onPointerMove={(event) => {
        if (!brush.go(event)) drawn.go(event);
      }}
      onPointerCancel={(event) => {
        if (!brush.end(event)) drawn.stop();
      }}
      onPointerUp={(event) => {
        const from = pressed.current;
        pressed.current = null;
        if (brush.end(event)) return;
        if (drawn.end(event)) return;
        if (!onPick || !stage || !from || event.button !== 0) return;
        const at = point(event);
        if (Math.abs(at.x - from.x) + Math.abs(at.y - from.y) < 4)
          onPick(stage.pick(at.x, at.y), {
            add: event.shiftKey || event.ctrlKey || event.metaKey,
            remove: event.altKey,
          });
      }}
      onKeyDown={(event) => {
        if (event.ctrlKey || event.metaKey || event.altKey) return;
        const move = MOVES[event.key];
        if (move) stage?.nudge(...move);
        else if (event.key.toLowerCase() === 'f') stage?.frame();
        else if (!onKey?.(event.key)) return;
        event.preventDefault();
      }}
    >
      <DrawnLine points={drawn.points} />
      {problem && <ErrorLine>{problem}</ErrorLine>}
    </div>
  );
}
