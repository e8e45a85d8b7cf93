import { create } from 'zustand';
import type { ViewProps } from '../../project/view-props.ts';
import { Segments } from '../../ui/Segments.tsx';
import { BaysView } from './BaysView.tsx';
import { FacesView } from './faces/FacesView.tsx';

/** Bays on their sheets, or faces of the models. */
const useMode = create<{ mode: 'bays' | 'faces' }>(() => ({ mode: 'bays' }));

/** UVs on the sheets, and on the models before they come there. */
export function UvView(props: ViewProps) {
  const mode = useMode((s) => s.mode);
  const switcher = (
    <Segments
      label="What is laid out"
      value={mode}
      options={[
        { value: 'bays', label: 'Bays on sheets' },
        { value: 'faces', label: 'Faces of models' },
      ]}
      onChange={(m) => useMode.setState({ mode: m })}
    />
  );
  return mode === 'faces' ? <FacesView {...props} switcher={switcher} /> : <BaysView {...props} switcher={switcher} />;
}
