import type { ProjectView, SurveyView } from '../../contract/project.ts';
import { setAddress } from '../../project/address.ts';
import { changeSources } from '../../project/api.ts';
import { notify } from '../../project/notices.ts';
import { selectSlots, useSelection } from '../../project/selection.ts';
import type { ViewProps } from '../../project/view-props.ts';
import type { MenuEntry } from '../../ui/ObjectMenu.tsx';

interface Means {
  project: ProjectView;
  survey: SurveyView;
  go: ViewProps['go'];
}

/** Goes to where the stand-in of a model is made. */
export function showStandIn(model: number, go: ViewProps['go']): void {
  useSelection.setState({ model });
  setAddress('bake', 'of', 'stand-in');
  go('bake');
}

/** Goes to where the recipe of a model is written. */
function showRecipe(model: number, go: ViewProps['go']): void {
  useSelection.setState({ model });
  setAddress('bake', 'of', 'recipe');
  setAddress('bake', 'on', null);
  go('bake');
}

/** What can be done to a model of the shelf. @param model its place in the survey; null: none is meant */
export function modelMenu(model: number | null, { project, survey, go }: Means): MenuEntry[] {
  const path = model === null ? undefined : survey.models[model]?.path;
  if (model === null || path === undefined) return [];
  const show = () => useSelection.setState({ model });
  const slots = survey.slots.flatMap((slot, i) => (slot.model === model ? [i] : []));
  const select = () => {
    show();
    selectSlots(slots);
  };
  return [
    { label: 'Show in 3D', run: show },
    { label: `Select its ${slots.length === 1 ? 'slot' : `${slots.length} slots`}`, run: select },
    {
      label: 'Show on Plan',
      run: () => {
        select();
        go('plan');
      },
    },
    { label: 'Make a stand-in', run: () => showStandIn(model, go) },
    { label: 'Write a recipe', run: () => showRecipe(model, go) },
    'line',
    {
      label: 'Copy path',
      run: () =>
        void navigator.clipboard
          .writeText(path)
          .catch(() => notify({ tone: 'fault', text: 'The browser does not let the page write to the clipboard.' })),
    },
    {
      label: 'Remove from the project',
      run: () =>
        void changeSources(project.id, [], [path]).catch((error: Error) =>
          notify({ tone: 'fault', text: error.message }),
        ),
    },
  ];
}
