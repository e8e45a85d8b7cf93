import type { SurveyFacts } from '../survey/facts.ts';
import { type Finding, few } from './finding.ts';
import { groupBy } from './group-by.ts';

const REACH = 1e-3;

/** UVs that are missing, leave 0–1, lie on each other, or use several tiles. */
export function uvFindings(facts: SurveyFacts): Finding[] {
  return mergedDuplicates(facts, perSlot(facts));
}

/** The same remark on several slots of one look in several models is one finding. */
export function mergedDuplicates(facts: SurveyFacts, list: Finding[]): Finding[] {
  const groups = groupBy(list, (finding) => `${finding.code} ${facts.slots[finding.objects.slots?.[0] ?? 0]?.look}`);
  return [...groups.values()].map((group) => {
    if (group.length === 1) return group[0];
    const all = <T>(pick: (finding: Finding) => T[] | undefined) => group.flatMap((finding) => pick(finding) ?? []);
    return {
      ...group[0],
      message: `${group[0].message}; and ${group.length - 1} more slot${group.length === 2 ? '' : 's'} of this look`,
      objects: {
        models: [...new Set(all((finding) => finding.objects.models))],
        slots: [...new Set(all((finding) => finding.objects.slots))],
        parts: all((finding) => finding.objects.parts),
      },
    };
  });
}

function perSlot(facts: SurveyFacts): Finding[] {
  const out: Finding[] = [];
  facts.slots.forEach((slot, i) => {
    const objects = {
      models: [slot.model],
      slots: [i],
      parts: slot.parts.map((part): [number, number] => [slot.model, part.part]),
    };
    const add = (f: Omit<Finding, 'objects' | 'subject' | 'saves'>) =>
      out.push({ ...f, subject: slot.name, saves: {}, objects });
    if (slot.obstacle?.code === 'no-uvs')
      add({
        code: 'no-uvs',
        severity: 'fault',
        message: `"${slot.name}" has textures, but ${slot.obstacle.reason}`,
        action: { do: 'keep-apart', label: 'Keep it apart', slots: [slot.name] },
      });
    const uv = slot.uv;
    if (!uv || uv.islands === 0) return;
    const [u0, v0, u1, v1] = uv.box;
    const outside = u0 < -REACH || v0 < -REACH || u1 > 1 + REACH || v1 > 1 + REACH;
    const [ru, rv] = uv.repeats;
    if (uv.tiles.length > 1)
      add({
        code: 'uv-tiles',
        severity: 'info',
        message: `"${slot.name}" uses ${uv.tiles.length} UV tiles: ${uv.tiles.map((tile) => 1001 + tile).join(', ')}`,
        action: { do: 'go', label: 'Flatten them onto a sheet', to: 'plan' },
      });
    else if (outside && (ru > 1 + REACH || rv > 1 + REACH)) {
      const clamped = (ru > 1 + REACH && !slot.wraps[0]) || (rv > 1 + REACH && !slot.wraps[1]);
      add({
        code: clamped ? 'clamped-repeats' : 'repeats',
        severity: clamped ? 'warning' : 'info',
        message: clamped
          ? `"${slot.name}" reaches ${times(ru)} × ${times(rv)} beyond 0–1, but its texture is clamped there`
          : `"${slot.name}" repeats ${times(ru)} along U and ${times(rv)} along V: inside an atlas its tiling is lost`,
        action: { do: 'go', label: 'Choose a way in the plan', to: 'plan' },
      });
    } else if (outside)
      add({
        code: 'shifted-uvs',
        severity: 'info',
        message: `the UVs of "${slot.name}" lie outside 0–1 (U ${u0.toFixed(2)} … ${u1.toFixed(2)}, V ${v0.toFixed(2)} … ${v1.toFixed(2)}) without repeating`,
        action: { do: 'go', label: 'See its layout', to: 'uv' },
      });
    if (uv.accidental > 0)
      add({
        code: 'overlapping-uvs',
        severity: 'warning',
        message: `islands of "${slot.name}" lie on each other by accident: ${Math.max(1, Math.round(uv.accidentalShare * 100))} % of what is covered (${few(uv.accidentalParts)})`,
        action: { do: 'go', label: 'See its layout', to: 'uv' },
      });
    if (uv.mirrored > 0 || uv.stacked > 0)
      add({
        code: uv.mirrored > 0 ? 'mirrored-uvs' : 'stacked-uvs',
        severity: 'info',
        message: `"${slot.name}" reuses its texture: ${[
          uv.stacked > 0 ? `${uv.stacked} islands are stacked` : '',
          uv.mirrored > 0 ? `${uv.mirrored} are stacked mirrored` : '',
        ]
          .filter(Boolean)
          .join(', ')}`,
        action: { do: 'go', label: 'See its layout', to: 'uv' },
      });
  });
  return out;
}

const times = (r: number) => `${r.toFixed(1)} ×`;
