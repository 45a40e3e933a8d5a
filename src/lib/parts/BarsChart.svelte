<script lang="ts">
  import { BarChart } from 'echarts/charts';
  import { GridComponent, TooltipComponent } from 'echarts/components';
  import { init, use, type EChartsType } from 'echarts/core';
  import { SVGRenderer } from 'echarts/renderers';
  import { look } from '$lib/state/look.svelte';

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
  let chart: EChartsType | null = null;

  $effect(() => {
    chart = init(holder, null, { renderer: 'svg' });
    const watcher = new ResizeObserver(() => chart?.resize());
    watcher.observe(holder);
    return () => {
      watcher.disconnect();
      chart?.dispose();
      chart = null;
    };
  });

  $effect(() => {
    void look.mode;
    const shown = { categories: [...categories], series };
    if (!chart) return;
    const style = getComputedStyle(document.documentElement);
    const color = (name: string): string => style.getPropertyValue(name).trim();
    const text = { color: color('--soft'), fontSize: 11, fontFamily: 'Public Sans Variable' };
    chart.setOption(
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
