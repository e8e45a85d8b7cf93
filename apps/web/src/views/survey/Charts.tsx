import { densityOfBin } from '@wembrel/core/survey/density';
import { densityHistogram } from '@wembrel/core/survey/measured';
import { useMemo } from 'react';
import type { ProjectView, SurveyView } from '../../contract/project.ts';
import { selectSlots, useModel, useSelection } from '../../project/selection.ts';
import { Chart } from '../../ui/Chart.tsx';
import { TYPE, tip, useInk } from '../../ui/chart-ink.ts';
import { bytes, counted, indexColour } from '../../ui/format.ts';
import { choosePicture } from './choose-picture.ts';

const short = (path: string) => path.split('/').pop() ?? path;

/** Texture memory as areas: models, in them their textures. */
export function MemoryMap({ project, survey }: { project: ProjectView; survey: SurveyView }) {
  const ink = useInk();
  const { format, largestTexture } = project.decisions.budget;
  const option = useMemo(() => {
    const children = survey.models.map((model, i) => ({
      id: `model ${i}`,
      name: short(model.path),
      itemStyle: { borderColor: ink.paper, borderWidth: 2, gapWidth: 1 },
      children: survey.pictures.flatMap((picture) =>
        picture.places
          .filter((x) => x.model === i)
          .map((x) => ({
            id: `picture ${picture.key}`,
            name: x.name,
            value: picture.bytes[format],
            side: `${picture.width} × ${picture.height}`,
            over: largestTexture !== null && Math.max(picture.width, picture.height) > largestTexture,
          })),
      ),
    }));
    return {
      tooltip: {
        ...tip(ink),
        formatter: (e: { name: string; value: number; data: { side?: string } }) =>
          `${e.name}<br>${e.data.side ? `${e.data.side}, ` : ''}${bytes(e.value)}`,
      },
      series: [
        {
          type: 'treemap',
          roam: false,
          nodeClick: false,
          breadcrumb: { show: false },
          animation: false,
          emphasis: { disabled: true },
          visibleMin: 40,
          left: 0,
          right: 0,
          top: 0,
          bottom: 0,
          label: { ...TYPE, color: '#12201f', overflow: 'truncate' },
          upperLabel: { show: true, height: 18, ...TYPE, color: ink.ink, backgroundColor: ink.paper },
          data: children
            .filter((child) => child.children.length > 0)
            .map((child, i) => ({
              ...child,
              children: child.children.map((t) => ({
                ...t,
                itemStyle: t.over ? { color: ink.fault } : { color: indexColour(i) },
              })),
            })),
        },
      ],
    };
  }, [survey, format, largestTexture, ink]);
  return (
    <Chart
      label={`Texture memory of ${counted(survey.pictures.length, 'texture')} as areas`}
      option={option}
      onChoose={(id) => {
        const [kind, key] = [id.slice(0, id.indexOf(' ')), id.slice(id.indexOf(' ') + 1)];
        if (kind === 'model') useSelection.setState({ model: Number(key), slots: new Set() });
        else choosePicture(survey, key);
      }}
    />
  );
}

/** Draw calls of each model, most first. */
export function DrawCallBars({ survey }: { survey: SurveyView }) {
  const ink = useInk();
  const model = useModel(survey);
  const option = useMemo(() => {
    const byPath = new Map(survey.files.map((file) => [file.path, file.drawCalls]));
    const rows = survey.models
      .map((model, i) => ({ id: String(i), name: short(model.path), value: byPath.get(model.path) ?? 0 }))
      .sort((a, b) => b.value - a.value)
      .slice(0, 60);
    return {
      animation: false,
      tooltip: {
        ...tip(ink),
        formatter: (e: { name: string; value: number }) => `${e.name}<br>${counted(e.value, 'draw call')}`,
      },
      grid: { left: 8, right: 52, top: 4, bottom: 4, containLabel: true },
      xAxis: { type: 'value', show: false },
      yAxis: {
        type: 'category',
        inverse: true,
        data: rows.map((row) => row.name),
        axisLabel: { ...TYPE, color: ink.ink, width: 150, overflow: 'truncate', interval: 0, hideOverlap: true },
        axisTick: { show: false },
        axisLine: { lineStyle: { color: ink.rule } },
      },
      series: [
        {
          type: 'bar',
          barMaxWidth: 16,
          barMinHeight: 2,
          label: { show: rows.length < 24, position: 'right', ...TYPE, color: ink.ink },
          data: rows.map((row) => ({
            ...row,
            itemStyle: { color: Number(row.id) === model ? ink.accent : ink.quiet },
          })),
        },
      ],
    };
  }, [survey, model, ink]);
  return (
    <Chart
      label="Draw calls by model"
      option={option}
      onChoose={(id) => useSelection.setState({ model: Number(id), slots: new Set() })}
    />
  );
}

/** Surface by texel density, with the wanted density marked. */
export function DensityHistogram({ project, survey }: { project: ProjectView; survey: SurveyView }) {
  const ink = useInk();
  const target = project.decisions.budget.density;
  const option = useMemo(() => {
    const areas = densityHistogram(survey.slots);
    const used = areas.flatMap((a, i) => (a > 0 ? [i] : []));
    const at = target === null ? null : 4 * Math.log2(target);
    const low = Math.max(0, Math.min(...used, at ?? Number.POSITIVE_INFINITY) - 2);
    const high = Math.max(...used, at ?? 0) + 2;
    const bins = Number.isFinite(low)
      ? Array.from({ length: Math.ceil(high - low) + 1 }, (_, k) => Math.floor(low) + k)
      : [];
    return {
      animation: false,
      tooltip: {
        ...tip(ink),
        formatter: (e: { name: string; value: number }) => `${e.name} px/m<br>${e.value.toFixed(2)} m²`,
      },
      grid: { left: 12, right: 44, top: 28, bottom: 8, containLabel: true },
      xAxis: {
        type: 'category',
        name: 'px/m',
        nameTextStyle: { ...TYPE, color: ink.ink2 },
        data: bins.map((bin) => `${Math.round(densityOfBin(bin))}`),
        axisLabel: { ...TYPE, color: ink.ink, interval: 3 },
        axisTick: { show: false },
        axisLine: { lineStyle: { color: ink.quiet } },
      },
      yAxis: {
        type: 'value',
        name: 'm²',
        nameTextStyle: { ...TYPE, color: ink.ink2 },
        axisLabel: { ...TYPE, color: ink.ink2 },
        splitLine: { lineStyle: { color: ink.rule } },
      },
      series: [
        {
          type: 'bar',
          barCategoryGap: '8%',
          data: bins.map((bin) => ({
            id: String(bin),
            value: areas[bin] ?? 0,
            itemStyle: { color: target !== null && densityOfBin(bin) < target / 2 ? ink.fault : ink.quiet },
          })),
          markLine:
            at === null
              ? undefined
              : {
                  symbol: 'none',
                  silent: true,
                  label: { formatter: `wanted ${target} px/m`, ...TYPE, color: ink.accent, position: 'end' },
                  lineStyle: { color: ink.accent, type: 'solid', width: 2 },
                  data: [{ xAxis: Math.round(at) - Math.floor(low) }],
                },
        },
      ],
    };
  }, [survey, target, ink]);
  return (
    <Chart
      label="Surface by texel density"
      option={option}
      onChoose={(id) =>
        selectSlots(survey.slots.flatMap((slot, i) => ((slot.densityAreas[Number(id)] ?? 0) > 0 ? [i] : [])))
      }
    />
  );
}
