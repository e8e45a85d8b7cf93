import { create } from 'zustand';
import { Segments } from '../../ui/Segments.tsx';
import type { ViewProps } from '../workbench/Workbench.tsx';
import { RaysView } from './rays/RaysView.tsx';
import { SheetsBake } from './SheetsBake.tsx';

/** What is baked; null until it was chosen: then what the project has to do with. */
const useMode = create<{ mode: 'sheets' | 'rays' | null }>(() => ({ mode: null }));

/** Materials onto sheets, or high-polys onto low-polys. */
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
      ]}
      onChange={(m) => useMode.setState({ mode: m })}
    />
  );
  return mode === 'rays' ? <RaysView {...props} switcher={switcher} /> : <SheetsBake {...props} switcher={switcher} />;
}
