import type { SurveyView } from '../../contract/project.ts';
import { useExact } from '../../project/model-address.ts';
import { hideSelected, showAll, showOnlySelected, useModel, useSelection } from '../../project/selection.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { Button } from '../../ui/Button.tsx';
import { count } from '../../ui/format.ts';
import ramps from '../../ui/ramps.module.css';
import css from './SurveyView.module.css';
import { TINTS, type TintName, type tintScale } from './tints.ts';

export interface ChosenModelProps {
  project: ViewProps['project'];
  survey: SurveyView;
  tint: TintName;
  onTint: (tint: TintName) => void;
  scale: ReturnType<typeof tintScale>;
}

export interface ModelToolsProps extends ChosenModelProps {
  wire: boolean;
  onWire: (on: boolean) => void;
}

/** How the chosen model is coloured, and which of its slots are shown. */
export function ModelTools({ survey, tint, onTint, scale, wire, onWire }: ModelToolsProps) {
  const exact = useExact((state) => state.exact);
  const model = useModel(survey);
  const hidden = useSelection((selection) => selection.hidden);
  const shown = survey.models[model];
  const some = hidden.slots.size + hidden.models.size > 0;
  return (
    <div className={css.tools}>
      <label>
        Colours{' '}
        <select value={tint} onChange={(event) => onTint(event.target.value as TintName)}>
          {Object.entries(TINTS).map(([k, t]) => (
            <option key={k} value={k}>
              {t}
            </option>
          ))}
        </select>
      </label>
      <label>
        <input type="checkbox" checked={wire} onChange={(event) => onWire(event.target.checked)} /> Wireframe
      </label>
      {shown?.reduced && (
        <label title={`All ${count(shown.triangles)} triangles instead of the reduced copy`}>
          <input
            type="checkbox"
            checked={exact}
            onChange={(event) => useExact.setState({ exact: event.target.checked })}
          />{' '}
          all triangles
        </label>
      )}
      <Button tone="quiet" onClick={() => hideSelected(model)}>
        Hide
      </Button>
      <Button tone="quiet" onClick={() => showOnlySelected(survey, model)}>
        Show only
      </Button>
      {some && (
        <Button tone="quiet" onClick={showAll}>
          Show all
        </Button>
      )}
      {scale?.ends ? (
        <span className={css.legend}>
          {(tint === 'drawCalls' || tint === 'triangles' || tint === 'density') && (
            <i className={tint === 'density' ? ramps.twoEnded : ramps.heat} aria-hidden />
          )}
          {scale.ends.join(' – ')}
        </span>
      ) : (
        <span className={css.name}>{shown?.path}</span>
      )}
    </div>
  );
}
