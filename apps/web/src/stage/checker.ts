/** Threads of the weave a side. */
const CELLS = 8;
const SIDE = 1024;

const made = new Map<number, string>();

/**
 * The density checker as a picture: a weave of over- and underlying threads, each cell with the texels of its side. Equal cells
 * on a model mean even density; a cell that is not square is stretched, one that reads backwards is mirrored.
 * @param texels side of the texture that it stands for, px
 */
export function checkerPicture(texels: number): string {
  const known = made.get(texels);
  if (known) return known;
  const canvas = document.createElement('canvas');
  canvas.width = SIDE;
  canvas.height = SIDE;
  const g = canvas.getContext('2d');
  if (!g) return '';
  const cell = SIDE / CELLS;
  for (let y = 0; y < CELLS; y++)
    for (let x = 0; x < CELLS; x++) {
      const over = (x + y) % 2 === 0;
      g.fillStyle = over ? '#d8d2bd' : '#4d6a70';
      g.fillRect(x * cell, y * cell, cell, cell);
      // Threads: fine lines along the direction in which this one runs.
      g.strokeStyle = over ? '#bfb798' : '#3c555b';
      g.lineWidth = 2;
      for (let k = 1; k < 6; k++) {
        const at = (k * cell) / 6;
        g.beginPath();
        if (over) {
          g.moveTo(x * cell, y * cell + at);
          g.lineTo((x + 1) * cell, y * cell + at);
        } else {
          g.moveTo(x * cell + at, y * cell);
          g.lineTo(x * cell + at, (y + 1) * cell);
        }
        g.stroke();
      }
      g.fillStyle = over ? '#24393d' : '#f2eedd';
      g.font = '600 40px "Spline Sans Mono", monospace';
      g.textAlign = 'center';
      g.textBaseline = 'middle';
      g.fillText(String(texels / CELLS), (x + 0.5) * cell, (y + 0.44) * cell);
      g.font = '22px "Spline Sans Mono", monospace';
      g.fillText('px', (x + 0.5) * cell, (y + 0.74) * cell);
    }
  const url = canvas.toDataURL('image/png');
  made.set(texels, url);
  return url;
}
