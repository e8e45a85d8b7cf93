import { fitsPattern } from '../decisions/patterns.ts';
import { plainName } from '../survey/assign-textures.ts';
import type { SurveyFacts } from '../survey/facts.ts';
import { type Finding, few } from './finding.ts';
import { groupBy } from './group-by.ts';

const stem = (path: string) => path.replace(/^.*\//, '').replace(/\.[^.]+$/, '');

/** Two things that would write one file, or that nobody can tell apart. */
export function nameClashes(facts: SurveyFacts): Finding[] {
  const out: Finding[] = [];
  const files = groupBy(
    facts.models.map((_, i) => i),
    (i) => plainName(stem(facts.models[i].path)),
  );
  for (const group of files.values())
    if (group.length > 1)
      out.push({
        code: 'name-clash',
        severity: 'warning',
        subject: stem(facts.models[group[0]].path),
        message: `${group.length} models would write one file: ${few(group.map((i) => facts.models[i].path))}; numbers are added to their names`,
        saves: {},
        objects: { models: group },
        action: { do: 'go', label: 'See them', to: 'files' },
      });
  facts.models.forEach((model, at) => {
    const own = facts.slots.flatMap((slot, i) => (slot.model === at ? [i] : []));
    for (const group of groupBy(own, (i) => facts.slots[i].name).values()) {
      if (group.length < 2 || new Set(group.map((i) => facts.slots[i].look)).size < 2) continue;
      out.push({
        code: 'name-clash',
        severity: 'warning',
        subject: facts.slots[group[0]].name,
        message: `${group.length} slots of ${model.path} are called "${facts.slots[group[0]].name}" and look different: a route by name moves them together`,
        saves: {},
        objects: { models: [at], slots: group },
        action: { do: 'go', label: 'See them', to: 'files' },
      });
    }
  });
  const byName = groupBy(
    facts.pictures.flatMap((picture) =>
      [...new Set(picture.places.map((x) => plainName(x.name)))].map((name) => ({ name, p: picture })),
    ),
    (e) => e.name,
  );
  for (const [name, group] of byName) {
    if (group.length < 2 || name === 'unnamed' || name === '') continue;
    out.push({
      code: 'name-clash',
      severity: 'info',
      subject: group[0].p.name,
      message: `${group.length} different textures are called "${group[0].p.name}"`,
      saves: {},
      objects: {
        pictures: group.map((e) => e.p.key),
        models: [...new Set(group.flatMap((e) => e.p.places.map((x) => x.model)))],
      },
      action: null,
      why: 'numbers are added to their names when they are handed over',
    });
  }
  return out;
}

/** Slots whose names are not among the required ones, and required names that no slot bears. */
export function requiredNames(facts: SurveyFacts, required: string[]): Finding[] {
  if (required.length === 0) return [];
  const out: Finding[] = [];
  const wrong = facts.slots.flatMap((slot, i) => (required.some((r) => fitsPattern(slot.name, r)) ? [] : [i]));
  if (wrong.length > 0)
    out.push({
      code: 'required-names',
      severity: 'warning',
      subject: facts.slots[wrong[0]].name,
      message: `${wrong.length === 1 ? 'one slot bears' : `${wrong.length} slots bear`} no required name: ${few([...new Set(wrong.map((i) => facts.slots[i].name))])}`,
      saves: {},
      objects: { slots: wrong, models: [...new Set(wrong.map((i) => facts.slots[i].model))] },
      action: { do: 'go', label: 'Name them in the plan', to: 'plan' },
    });
  const missing = required.filter((r) => !facts.slots.some((slot) => fitsPattern(slot.name, r)));
  if (missing.length > 0)
    out.push({
      code: 'required-names',
      severity: 'warning',
      subject: missing[0],
      message: `no slot is called ${few(missing)}, as ${missing.length === 1 ? 'is' : 'are'} required`,
      saves: {},
      objects: {},
      action: { do: 'go', label: 'Name them in the plan', to: 'plan' },
    });
  return out;
}
