import type { ProjectedPart } from '@wembrel/core/select/outline';
import { useEffect, useMemo, useRef, useState } from 'react';
import { DrawnLine } from '../../../stage/DrawnLine.tsx';
import { type DrawnOutline, useOutline } from '../../../stage/use-outline.ts';
import type { FaceTable } from './face-table.ts';
import css from './UvPicture.module.css';

export interface UvPictureProps {
  table: FaceTable;
  /** Slot whose UVs are shown, and its picture. */
  slot: number;
  picture: ImageBitmap | HTMLImageElement | null;
  selected: Uint8Array;
  /** Faces that are not shown in 3D are not shown here. */
  hidden: Uint8Array | null;
  caption: string;
  onPick: (face: number | null, how: { add: boolean; remove: boolean }) => void;
  /** A box or a line was drawn; how the faces lie in the picture then, px. */
  onOutline: (drawn: DrawnOutline, faces: ProjectedPart) => void;
}

/** A flat picture has none that could turn. */
const noCamera = () => {};

/** Outlines of more faces than this are not drawn one by one while the view moves. */
const MANY = 60_000;

/** UVs of a slot over its picture: V down, as pictures run. Wheel goes nearer, drag moves, F fits; a click takes what lies there, a box with Shift or a line with Shift and Alt what lies within. */
export function UvPicture({ table, slot, picture, selected, hidden, caption, onPick, onOutline }: UvPictureProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [view, setView] = useState<{ x: number; y: number; px: number } | null>(null);
  const [size, setSize] = useState({ w: 0, h: 0 });
  const drag = useRef<{ x: number; y: number; moved: boolean } | null>(null);
  const faces = useMemo(() => {
    const list: number[] = [];
    for (let f = 0; f < table.faces; f++) if (table.slots[f] === slot && !hidden?.[f]) list.push(f);
    return list;
  }, [table, slot, hidden]);
  /** 0–1 and all that lies outside, as far as it is worth seeing. */
  const box = useMemo(() => {
    let [u0, v0, u1, v1] = [0, 0, 1, 1];
    for (const face of faces)
      for (let i = face * 6; i < face * 6 + 6; i += 2) {
        u0 = Math.min(u0, table.uv[i]);
        u1 = Math.max(u1, table.uv[i]);
        v0 = Math.min(v0, table.uv[i + 1]);
        v1 = Math.max(v1, table.uv[i + 1]);
      }
    return [u0, v0, u1, v1];
  }, [faces, table]);
  // Texels are square.
  const tall = picture ? picture.height / picture.width : 1;
  const fitted = useMemo(() => {
    const [u0, v0, u1, v1] = box;
    const px = 0.92 * Math.min(size.w / (u1 - u0), size.h / (v1 - v0) / tall);
    return { px, x: size.w / 2 - ((u0 + u1) / 2) * px, y: size.h / 2 - ((v0 + v1) / 2) * px * tall };
  }, [box, size, tall]);
  const at = view ?? fitted;
  useEffect(() => {
    const current = canvas.current;
    if (!current) return;
    const watch = new ResizeObserver(() => setSize({ w: current.clientWidth, h: current.clientHeight }));
    watch.observe(current);
    return () => watch.disconnect();
  }, []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another slot is looked at as a whole
  useEffect(() => setView(null), [slot, box]);
  useEffect(() => {
    const current = canvas.current;
    const context = current?.getContext('2d');
    if (!current || !context || size.w === 0) return;
    const ratio = Math.min(2, window.devicePixelRatio);
    current.width = Math.round(size.w * ratio);
    current.height = Math.round(size.h * ratio);
    const style = getComputedStyle(current);
    const token = (name: string) => style.getPropertyValue(name).trim();
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.fillStyle = token('--stage');
    context.fillRect(0, 0, size.w, size.h);
    const x = (u: number) => at.x + u * at.px;
    const y = (v: number) => at.y + v * at.px * tall;
    drawTiles(context, picture, { ...at, py: at.px * tall }, size, token('--stage-rule'));
    const path = (list: readonly number[]) => {
      const path2D = new Path2D();
      for (const f of list) {
        const i = f * 6;
        path2D.moveTo(x(table.uv[i]), y(table.uv[i + 1]));
        path2D.lineTo(x(table.uv[i + 2]), y(table.uv[i + 3]));
        path2D.lineTo(x(table.uv[i + 4]), y(table.uv[i + 5]));
        path2D.closePath();
      }
      return path2D;
    };
    const outline = path(faces.length > MANY ? faces.filter((face) => selected[face]) : faces);
    // Thin triangles have corners whose mitres would stick far out.
    context.lineJoin = 'round';
    context.lineWidth = 2.5;
    context.strokeStyle = 'rgb(0 0 0 / 0.45)';
    context.stroke(outline);
    context.lineWidth = 1;
    context.strokeStyle = 'rgb(255 255 255 / 0.85)';
    context.stroke(outline);
    const chosen = path(faces.filter((face) => selected[face]));
    context.globalAlpha = 0.5;
    context.fillStyle = '#0f7c8a';
    context.fill(chosen);
    context.globalAlpha = 1;
    context.lineWidth = 1.5;
    context.strokeStyle = '#7fe6f2';
    context.stroke(chosen);
  }, [at, size, faces, table, selected, picture, tall]);
  const zoom = (by: number, cx = size.w / 2, cy = size.h / 2) =>
    setView({ px: at.px * by, x: cx - (cx - at.x) * by, y: cy - (cy - at.y) * by });
  useEffect(() => {
    const current = canvas.current;
    if (!current) return;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const box = current.getBoundingClientRect();
      const by = Math.exp(-event.deltaY / 400);
      const [cx, cy] = [event.clientX - box.left, event.clientY - box.top];
      setView((v) => {
        const from = v ?? fitted;
        return { px: from.px * by, x: cx - (cx - from.x) * by, y: cy - (cy - from.y) * by };
      });
    };
    current.addEventListener('wheel', wheel, { passive: false });
    return () => current.removeEventListener('wheel', wheel);
  }, [fitted]);
  const faceAt = (px: number, py: number): number | null => {
    const [u, v] = [(px - at.x) / at.px, (py - at.y) / at.px / tall];
    const inside = (f: number) => {
      const i = f * 6;
      const s = [0, 1, 2].map((k) => {
        const [a, b] = [i + 2 * k, i + 2 * ((k + 1) % 3)];
        const uv = table.uv;
        return (uv[b] - uv[a]) * (v - uv[a + 1]) - (uv[b + 1] - uv[a + 1]) * (u - uv[a]);
      });
      return s.every((n) => n >= 0) || s.every((n) => n <= 0);
    };
    return faces.find(inside) ?? null;
  };
  /** The faces as they lie in the picture. */
  const projected = (): ProjectedPart => {
    const points = new Float32Array(faces.length * 9);
    faces.forEach((face, i) => {
      for (let k = 0; k < 3; k++) {
        points[i * 9 + k * 3] = at.x + table.uv[face * 6 + k * 2] * at.px;
        points[i * 9 + k * 3 + 1] = at.y + table.uv[face * 6 + k * 2 + 1] * at.px * tall;
      }
    });
    return {
      points,
      indices: Uint32Array.from({ length: faces.length * 3 }, (_, i) => i),
      faces: Uint32Array.from(faces),
      front: 0,
    };
  };
  const drawn = useOutline(noCamera, (outline) => onOutline(outline, projected()));
  return (
    <div className={css.box}>
      <canvas
        ref={canvas}
        role="img"
        tabIndex={0}
        aria-label={`UVs: ${caption}; arrows move, plus and minus go nearer and farther, F fits`}
        onPointerDown={(event) => {
          drawn.begin(event);
          drag.current = { x: event.clientX, y: event.clientY, moved: false };
          event.currentTarget.setPointerCapture(event.pointerId);
        }}
        onPointerCancel={drawn.stop}
        onPointerMove={(event) => {
          const current = drag.current;
          if (drawn.go(event) || !current) return;
          const [dx, dy] = [event.clientX - current.x, event.clientY - current.y];
          if (!current.moved && Math.abs(dx) + Math.abs(dy) < 4) return;
          drag.current = { x: event.clientX, y: event.clientY, moved: true };
          setView({ ...at, x: at.x + dx, y: at.y + dy });
        }}
        onPointerUp={(event) => {
          const current = drag.current;
          drag.current = null;
          if (drawn.end(event)) return;
          if (!current || current.moved || event.button !== 0) return;
          const box = event.currentTarget.getBoundingClientRect();
          onPick(faceAt(event.clientX - box.left, event.clientY - box.top), {
            add: event.shiftKey || event.ctrlKey || event.metaKey,
            remove: event.altKey,
          });
        }}
        onKeyDown={(event) => {
          if (event.ctrlKey || event.metaKey || event.altKey) return;
          const step: Record<string, [number, number]> = {
            ArrowLeft: [40, 0],
            ArrowRight: [-40, 0],
            ArrowUp: [0, 40],
            ArrowDown: [0, -40],
          };
          if (step[event.key]) setView({ ...at, x: at.x + step[event.key][0], y: at.y + step[event.key][1] });
          else if (event.key === '+' || event.key === '=') zoom(1.2);
          else if (event.key === '-') zoom(1 / 1.2);
          else if (event.key.toLowerCase() === 'f') setView(null);
          else return;
          event.preventDefault();
        }}
      />
      <DrawnLine points={drawn.points} />
      <p className={css.caption}>{caption}</p>
    </div>
  );
}

/** The picture in 0–1, its repeats around it paler, and the lines between them. */
function drawTiles(
  g: CanvasRenderingContext2D,
  picture: ImageBitmap | HTMLImageElement | null,
  at: { x: number; y: number; px: number; py: number },
  size: { w: number; h: number },
  rule: string,
): void {
  const [u0, u1] = [Math.floor(-at.x / at.px), Math.ceil((size.w - at.x) / at.px)];
  const [v0, v1] = [Math.floor(-at.y / at.py), Math.ceil((size.h - at.y) / at.py)];
  const few = (u1 - u0) * (v1 - v0) <= 2500;
  const pattern = picture && g.createPattern(picture, 'repeat');
  if (picture && pattern) {
    g.imageSmoothingEnabled = true;
    pattern.setTransform(new DOMMatrix([at.px / picture.width, 0, 0, at.py / picture.height, at.x, at.y]));
    g.fillStyle = pattern;
    g.globalAlpha = 0.35;
    g.fillRect(0, 0, size.w, size.h);
    g.globalAlpha = 1;
    g.drawImage(picture, at.x, at.y, at.px, at.py);
  }
  g.strokeStyle = rule;
  g.lineWidth = 1;
  if (few)
    for (let u = u0; u <= u1; u++) {
      g.beginPath();
      g.moveTo(at.x + u * at.px, 0);
      g.lineTo(at.x + u * at.px, size.h);
      g.stroke();
    }
  if (few)
    for (let v = v0; v <= v1; v++) {
      g.beginPath();
      g.moveTo(0, at.y + v * at.py);
      g.lineTo(size.w, at.y + v * at.py);
      g.stroke();
    }
  g.strokeStyle = '#ffffff';
  g.lineWidth = 1.5;
  g.strokeRect(at.x, at.y, at.px, at.py);
}
