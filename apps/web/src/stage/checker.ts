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
  const context = canvas.getContext('2d');
  if (!context) return '';
  const cell = SIDE / CELLS;
  for (let y = 0; y < CELLS; y++)
    for (let x = 0; x < CELLS; x++) {
      const over = (x + y) % 2 === 0;
      context.fillStyle = over ? '#d8d2bd' : '#4d6a70';
      context.fillRect(x * cell, y * cell, cell, cell);
      // Threads: fine lines along the direction in which this one runs.
      context.strokeStyle = over ? '#bfb798' : '#3c555b';
      context.lineWidth = 2;
      for (let k = 1; k < 6; k++) {
        const at = (k * cell) / 6;
        context.beginPath();
        if (over) {
          context.moveTo(x * cell, y * cell + at);
          context.lineTo((x + 1) * cell, y * cell + at);
        } else {
          context.moveTo(x * cell + at, y * cell);
          context.lineTo(x * cell + at, (y + 1) * cell);
        }
        context.stroke();
      }
      context.fillStyle = over ? '#24393d' : '#f2eedd';
      context.font = '600 40px "Spline Sans Mono", monospace';
      context.textAlign = 'center';
      context.textBaseline = 'middle';
      context.fillText(String(texels / CELLS), (x + 0.5) * cell, (y + 0.44) * cell);
      context.font = '22px "Spline Sans Mono", monospace';
      context.fillText('px', (x + 0.5) * cell, (y + 0.74) * cell);
    }
  const url = canvas.toDataURL('image/png');
  made.set(texels, url);
  return url;
}
