import { setAddress, useAddress } from '../../project/address.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { Segments } from '../../ui/Segments.tsx';
import { LightView } from './light/LightView.tsx';
import { RaysView } from './rays/RaysView.tsx';
import { RecipeView } from './recipe/RecipeView.tsx';
import { SheetsBake } from './SheetsBake.tsx';
import { StandInView } from './stand-in/StandInView.tsx';

const MODES = ['sheets', 'rays', 'recipe', 'stand-in', 'light'] as const;

/** Materials onto sheets, high-polys onto low-polys, looks by recipes, heavy models into light ones, or light into vertex colours. */
export function BakeView(props: ViewProps) {
  // Until something was chosen: what the project has to do with.
  const likely = props.project.decisions.rays.pairings.length > 0 ? 'rays' : 'sheets';
  const [mode] = useAddress('bake', 'of', MODES, likely);
  const switcher = (
    <Segments
      label="What is baked"
      value={mode}
      options={[
        { value: 'sheets', label: 'Materials to sheets' },
        { value: 'rays', label: 'High to low' },
        { value: 'recipe', label: 'Recipe' },
        { value: 'stand-in', label: 'Stand-in' },
        { value: 'light', label: 'Light' },
      ]}
      onChange={(m) => setAddress('bake', 'of', m)}
    />
  );
  if (mode === 'recipe') return <RecipeView {...props} switcher={switcher} />;
  if (mode === 'stand-in') return <StandInView {...props} switcher={switcher} />;
  if (mode === 'light') return <LightView {...props} switcher={switcher} />;
  return mode === 'rays' ? <RaysView {...props} switcher={switcher} /> : <SheetsBake {...props} switcher={switcher} />;
}
