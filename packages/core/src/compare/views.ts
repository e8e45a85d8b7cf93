/** The twelve fixed views of "Fidelity": directions from the model's middle to the eye, y up. */
export const VIEWS: { name: string; eye: [number, number, number] }[] = [
  { name: 'front', eye: [0, 0.15, 1] },
  { name: 'front right', eye: [0.8, 0.35, 0.8] },
  { name: 'right', eye: [1, 0.15, 0] },
  { name: 'back right', eye: [0.8, 0.35, -0.8] },
  { name: 'back', eye: [0, 0.15, -1] },
  { name: 'back left', eye: [-0.8, 0.35, -0.8] },
  { name: 'left', eye: [-1, 0.15, 0] },
  { name: 'front left', eye: [-0.8, 0.35, 0.8] },
  { name: 'above front', eye: [0.2, 1, 0.6] },
  { name: 'above back', eye: [-0.3, 1, -0.5] },
  { name: 'below front', eye: [0.3, -0.8, 0.7] },
  { name: 'below back', eye: [-0.4, -0.9, -0.5] },
];

/** Orthographic frame of a view: p · right, p · up, p · toward are screen x, y and nearness. */
export interface ViewFrame {
  right: [number, number, number];
  up: [number, number, number];
  toward: [number, number, number];
}

export function viewFrame(eye: [number, number, number]): ViewFrame {
  const length = Math.hypot(...eye);
  const f: [number, number, number] = [eye[0] / length, eye[1] / length, eye[2] / length];
  const r = Math.hypot(f[0], f[2]) || 1;
  const right: [number, number, number] = [f[2] / r, 0, -f[0] / r];
  const up: [number, number, number] = [
    f[1] * right[2] - f[2] * right[1],
    f[2] * right[0] - f[0] * right[2],
    f[0] * right[1] - f[1] * right[0],
  ];
  return { right, up, toward: f };
}
