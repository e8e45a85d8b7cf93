import { Button } from '../../ui/Button.tsx';
import { KeyCap } from '../../ui/KeyCap.tsx';
import type { TexelLevel, TexelReading } from '../../workers/texel-values.ts';
import css from './TexelViewer.module.css';

interface ReadoutProps {
  at: readonly [number, number] | null;
  reading: TexelReading | null;
  level: number;
  size: Pick<TexelLevel, 'width' | 'height'> | null;
  /** What lies there. */
  where: string | null;
  onCopy: () => void;
}

/** The values of the texel below the pointer. */
export function Readout({ at, reading, level, size, where, onCopy }: ReadoutProps) {
  if (!reading || !at)
    return (
      <footer className={css.readout}>
        <p>
          Point at a texel to read it, or press the arrows.{' '}
          {size && `Mip ${level} has ${size.width} × ${size.height} texels.`}
        </p>
      </footer>
    );
  const numbers = (values: readonly number[], digits: number) =>
    values.map((value) => value.toFixed(digits)).join('  ');
  return (
    <footer className={css.readout}>
      <span className={css.swatch} style={{ background: reading.hex }} />
      <dl>
        <div>
          <dt>x, y</dt>
          <dd>{at.join(', ')}</dd>
        </div>
        <div>
          <dt>stored R G B A</dt>
          <dd>{numbers(reading.stored, 0)}</dd>
        </div>
        <div>
          <dt>linear</dt>
          <dd>{numbers(reading.linear, 3)}</dd>
        </div>
        <div>
          <dt>hex</dt>
          <dd>{reading.hex}</dd>
        </div>
        {where && (
          <div>
            <dt>bay</dt>
            <dd>{where}</dd>
          </div>
        )}
      </dl>
      <Button tone="quiet" onClick={onCopy}>
        Copy <KeyCap>C</KeyCap>
      </Button>
    </footer>
  );
}
