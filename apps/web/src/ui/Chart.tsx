import { BarChart, ScatterChart, TreemapChart } from 'echarts/charts';
import { GridComponent, MarkLineComponent, TooltipComponent } from 'echarts/components';
import { type EChartsCoreOption, type EChartsType, init, use } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { useEffect, useRef } from 'react';
import css from './Chart.module.css';

use([BarChart, ScatterChart, TreemapChart, GridComponent, MarkLineComponent, TooltipComponent, SVGRenderer]);

export interface ChartProps {
  /** What the chart shows, for those who cannot see it. */
  label: string;
  option: EChartsCoreOption;
  /** The name of what was clicked. */
  onChoose?: (name: string) => void;
}

/** A chart in our colours and type, as vectors; draws itself again when its box or its data change. */
export function Chart({ label, option, onChoose }: ChartProps) {
  const box = useRef<HTMLDivElement>(null);
  const chart = useRef<EChartsType | null>(null);
  const choose = useRef(onChoose);
  choose.current = onChoose;
  useEffect(() => {
    if (!box.current) return;
    const made = init(box.current, null, { renderer: 'svg' });
    chart.current = made;
    made.on('click', (event) => {
      const id = (event.data as { id?: string } | null)?.id ?? event.name;
      choose.current?.(id);
    });
    const watch = new ResizeObserver(() => made.resize());
    watch.observe(box.current);
    return () => {
      watch.disconnect();
      made.dispose();
      chart.current = null;
    };
  }, []);
  useEffect(() => {
    chart.current?.setOption(option, true);
  }, [option]);
  return <div ref={box} className={css.chart} role="img" aria-label={label} />;
}

/** A colour of the tokens as the page has it now, since charts do not read custom properties. */
export function tokenColour(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();
}
