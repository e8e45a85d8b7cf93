import { Button } from '../../../ui/Button.tsx';
import { count } from '../../../ui/format.ts';
import css from './Faces.module.css';
import type { TileFigures } from './face-table.ts';

export interface TileTableProps {
  tiles: readonly TileFigures[];
  /** Sheets already give everything one density. */
  even: boolean;
  split: () => void;
  evenOut: () => void;
}

/** UV tiles of a slot with their densities: where they are unlike, the seam between them shows. */
export function TileTable({ tiles, even, split, evenOut }: TileTableProps) {
  const known = tiles.flatMap((tile) => (tile.density === null ? [] : [tile.density]));
  const unlike = known.length > 0 ? Math.max(...known) / Math.min(...known) : 1;
  return (
    <section className={css.tiles} aria-label="UV tiles">
      <table>
        <thead>
          <tr>
            <th scope="col">UV tile</th>
            <th scope="col">faces</th>
            <th scope="col">px/m</th>
          </tr>
        </thead>
        <tbody>
          {tiles.map((tile) => (
            <tr key={tile.number}>
              <td>{tile.number}</td>
              <td>{count(tile.faces)}</td>
              <td>{tile.density === null ? '–' : tile.density.toPrecision(3)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p>{unlike > 1.01 ? `Unlike by ${unlike.toFixed(2)} ×: shows as seams.` : 'All of one density.'}</p>
      <div className={css.row}>
        <Button onClick={split}>A slot for each</Button>
        <Button onClick={evenOut} disabled={even} title="Island size: even density, on all sheets">
          {even ? 'Even on sheets' : 'Even out on sheets'}
        </Button>
      </div>
    </section>
  );
}
