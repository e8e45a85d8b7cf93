import { useAddress } from '../../project/address.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { Segments } from '../../ui/Segments.tsx';
import { BaysView } from './BaysView.tsx';
import { FacesView } from './faces/FacesView.tsx';

/** Bays on their sheets, or faces of the models. */
const MODES = ['bays', 'faces'] as const;

/** UVs on the sheets, and on the models before they come there. */
export function UvView(props: ViewProps) {
  const [mode, setMode] = useAddress('uv', 'of', MODES, 'bays');
  const switcher = (
    <Segments
      label="What is laid out"
      value={mode}
      options={[
        { value: 'bays', label: 'Bays on sheets' },
        { value: 'faces', label: 'Faces of models' },
      ]}
      onChange={setMode}
    />
  );
  return mode === 'faces' ? <FacesView {...props} switcher={switcher} /> : <BaysView {...props} switcher={switcher} />;
}
