<script lang="ts">
  import { BarChart } from 'echarts/charts';
  import { GridComponent, TooltipComponent } from 'echarts/components';
  import { use } from 'echarts/core';
  import { SVGRenderer } from 'echarts/renderers';
  import { look } from '$lib/state/look.svelte';
  import { HeldChart, themeColors } from '../../ui/chart.svelte';

  use([BarChart, GridComponent, TooltipComponent, SVGRenderer]);

  interface Props {
    label: string;
    categories: readonly string[];
    /** Stacked; tones are names of the theme's colours. */
    series: readonly { name: string; tone: string; values: readonly number[] }[];
    height?: number;
  }
  const { label, categories, series, height = 150 }: Props = $props();

  let holder: HTMLDivElement;
  const held = new HeldChart(() => holder, 'svg');

  $effect(() => {
    void look.mode;
    const shown = { categories: [...categories], series };
    const color = themeColors();
    const text = { color: color('--soft'), fontSize: 11, fontFamily: 'Public Sans Variable' };
    held.current?.setOption(
      {
        animation: false,
        grid: { left: 44, right: 8, top: 10, bottom: 22 },
        tooltip: {
          trigger: 'axis',
          backgroundColor: color('--sheet'),
          borderColor: color('--rule'),
          textStyle: { color: color('--ink'), fontFamily: 'Public Sans Variable', fontSize: 12 }
        },
        xAxis: {
          type: 'category',
          data: shown.categories,
          axisTick: { show: false },
          axisLine: { lineStyle: { color: color('--rule') } },
          axisLabel: text
        },
        yAxis: {
          type: 'value',
          minInterval: 1,
          axisLabel: text,
          splitLine: { lineStyle: { color: color('--hair') } }
        },
        series: shown.series.map(({ name, tone, values }) => ({
          type: 'bar',
          stack: 'all',
          name,
          data: [...values],
          itemStyle: { color: color(tone) },
          barCategoryGap: '18%'
        }))
      },
      { notMerge: true }
    );
  });
</script>

<div class="chart" bind:this={holder} role="img" aria-label={label} style:height="{height}px"></div>

<style>
  .chart {
    width: 100%;
  }
</style>
