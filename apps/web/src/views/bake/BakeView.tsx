import { create } from 'zustand';
import type { ViewProps } from '../../project/view-props.ts';
import { Segments } from '../../ui/Segments.tsx';
import { LightView } from './light/LightView.tsx';
import { RaysView } from './rays/RaysView.tsx';
import { SheetsBake } from './SheetsBake.tsx';

/** What is baked; null until it was chosen: then what the project has to do with. */
const useMode = create<{ mode: 'sheets' | 'rays' | 'light' | null }>(() => ({ mode: null }));

/** Materials onto sheets, high-polys onto low-polys, or light into vertex colours. */
export function BakeView(props: ViewProps) {
  const chosen = useMode((s) => s.mode);
  const mode = chosen ?? (props.project.decisions.rays.pairings.length > 0 ? 'rays' : 'sheets');
  const switcher = (
    <Segments
      label="What is baked"
      value={mode}
      options={[
        { value: 'sheets', label: 'Materials to sheets' },
        { value: 'rays', label: 'High to low' },
        { value: 'light', label: 'Light' },
      ]}
      onChange={(m) => useMode.setState({ mode: m })}
    />
  );
  if (mode === 'light') return <LightView {...props} switcher={switcher} />;
  return mode === 'rays' ? <RaysView {...props} switcher={switcher} /> : <SheetsBake {...props} switcher={switcher} />;
}
