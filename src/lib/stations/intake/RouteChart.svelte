<script lang="ts">
  import { CustomChart } from 'echarts/charts';
  import { GridComponent, MarkAreaComponent, MarkLineComponent } from 'echarts/components';
  import { use } from 'echarts/core';
  import { SVGRenderer } from 'echarts/renderers';
  import type { Intake, Plan, Times } from '$core/plan';
  import { look } from '$lib/state/look.svelte';
  import { chartOf, type ChartRow } from '$lib/stations/intake/route-chart';
  import { HeldChart, themeColors } from '../../ui/chart.svelte';

  use([CustomChart, GridComponent, MarkAreaComponent, MarkLineComponent, SVGRenderer]);

  interface Props {
    intake: Intake;
    plan: Plan;
    times: Times;
  }
  const { intake, plan, times }: Props = $props();

  let holder: HTMLDivElement;
  const held = new HeldChart(() => holder, 'svg');
  const drawn = $derived(chartOf(intake, plan, times));

  $effect(() => {
    void look.mode;
    const { rows, from, to, deleted, now } = drawn;
    const color = themeColors();
    const tones = {
      lost: color('--ochre-bar'),
      contains: color('--accent'),
      other: color('--soft'),
      paper: color('--sheet')
    };
    held.current?.resize({ height: 60 + rows.length * 26 });
    held.current?.setOption(
      {
        animation: false,
        textStyle: { fontFamily: 'Public Sans Variable' },
        grid: { left: 150, right: 26, top: 22, bottom: 26 },
        xAxis: {
          type: 'time',
          min: from,
          max: to,
          axisLabel: { color: color('--soft'), hideOverlap: true },
          axisLine: { show: false },
          axisTick: { show: false },
          splitLine: { show: true, lineStyle: { color: color('--hair') } }
        },
        yAxis: {
          type: 'category',
          inverse: true,
          data: rows.map(({ title }) => title),
          axisLine: { show: false },
          axisTick: { show: false },
          axisLabel: { color: color('--ink'), width: 138, overflow: 'truncate' }
        },
        series: [
          {
            type: 'custom',
            data: rows.map((row, i) => [i, row.from, row.to]),
            renderItem: (params: { dataIndex: number }, api: RenderApi) =>
              shapeOf(rows[params.dataIndex]!, params.dataIndex, api, tones),
            markArea: deleted && {
              silent: true,
              itemStyle: { color: color('--ochre-wash'), opacity: 0.8 },
              label: { color: color('--ochre'), position: 'top', fontSize: 11 },
              data: [[{ name: 'deleted', xAxis: deleted.from }, { xAxis: deleted.to }]]
            },
            markLine: {
              silent: true,
              symbol: 'none',
              lineStyle: { color: color('--soft'), type: 'dashed' },
              label: { formatter: 'now', position: 'start', color: color('--soft'), fontSize: 11 },
              data: [{ xAxis: now }]
            }
          }
        ]
      },
      true
    );
  });

  interface RenderApi {
    coord(value: [number, number]): [number, number];
  }

  /** A bar for a span, a line that ends in a dot for a copy: filled where it surely holds the messages. */
  function shapeOf(
    row: ChartRow,
    index: number,
    api: RenderApi,
    tones: Record<'lost' | 'contains' | 'other' | 'paper', string>
  ): object {
    const [x, y] = api.coord([row.from, index]);
    const [end] = api.coord([row.to, index]);
    if (row.kind === 'lost')
      return {
        type: 'rect',
        shape: { x, y: y - 7, width: Math.max(3, end - x), height: 14 },
        style: { fill: tones.lost }
      };
    const tone = row.verdict === 'contains' ? tones.contains : tones.other;
    const isFilled = row.verdict === 'contains';
    const isOpen = row.verdict === 'may-contain';
    return {
      type: 'group',
      children: [
        {
          type: 'line',
          shape: { x1: x, y1: y, x2: end, y2: y },
          style: {
            stroke: tone,
            lineWidth: 1.5,
            lineDash: isFilled ? 'solid' : isOpen ? [4, 3] : [1, 4]
          }
        },
        {
          type: 'circle',
          shape: { cx: end, cy: y, r: 5.5 },
          style: { fill: isFilled ? tone : tones.paper, stroke: tone, lineWidth: 2 }
        }
      ]
    };
  }
</script>

<div
  class="chart"
  bind:this={holder}
  role="img"
  aria-label="When the lost messages were sent and deleted, and when each copy was made. The routes below say the same in words."
></div>

<style>
  .chart {
    border: 1px solid var(--rule);
    background: var(--sheet);
    min-height: 120px;
  }
</style>
