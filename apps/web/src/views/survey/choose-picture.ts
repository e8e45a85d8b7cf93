import type { SurveyView } from '../../contract/project.ts';
import { selectSlots, useSelection } from '../../project/selection.ts';

/** Selects the slots that read a texture. */
export function choosePicture(survey: SurveyView, key: string): void {
  const users = survey.slots.flatMap((slot, i) => (Object.values(slot.images).includes(key) ? [i] : []));
  selectSlots(users);
  if (users.length > 0) useSelection.setState({ model: survey.slots[users[0]].model });
}
