<script lang="ts">
  import { BarChart } from 'echarts/charts';
  import { BrushComponent, GridComponent, ToolboxComponent } from 'echarts/components';
  import { use, type EChartsType } from 'echarts/core';
  import { CanvasRenderer } from 'echarts/renderers';
  import { STATES, type RecordState } from '$core/records';
  import { look } from '$lib/state/look.svelte';
  import type { River } from '$lib/service/api/protocol';
  import { HeldChart, themeColors } from '../../ui/chart.svelte';

  use([BarChart, BrushComponent, GridComponent, ToolboxComponent, CanvasRenderer]);

  interface Props {
    river: River | null;
    from: number | null;
    to: number | null;
    onrange: (from: number | null, to: number | null) => void;
  }
  const { river, from, to, onrange }: Props = $props();

  /** Bars past which days stand together: more cannot be told apart. */
  const MOST_BARS = 420;
  /** Days that one bar stands for. */
  const width = $derived(Math.max(1, Math.ceil((river?.days.length ?? 0) / MOST_BARS)));
  const TONES: Record<RecordState, string> = {
    live: '--bar',
    held: '--slate',
    recovered: '--ochre-bar',
    fragment: '--plum-bar',
    earlier: '--teal'
  };

  let holder: HTMLDivElement;
  /** The cursor draws areas; it has to be given to a chart that has an axis, once. */
  let isBrushed = false;

  const held = new HeldChart(
    () => holder,
    'canvas',
    (chart) => {
      isBrushed = false;
      chart.on('brushEnd', (event) => brushed((event as BrushEnd).areas));
    }
  );

  interface BrushEnd {
    areas: { coordRange?: [number, number] }[];
  }

  $effect(() => {
    void look.mode;
    const [shown, bars] = [river, width];
    if (!shown) return;
    // What is to be read comes first.
    const timer = setTimeout(() => held.current && draw(held.current, together(shown, bars)), 30);
    return () => clearTimeout(timer);
  });

  $effect(() => {
    void [river, from, to];
    if (held.current && isBrushed) brush(held.current);
  });

  /** Shows the days that the view is restricted to. */
  function brush(target: EChartsType): void {
    const areas = span(from, to).map((coordRange) => ({
      brushType: 'lineX' as const,
      xAxisIndex: 0,
      coordRange
    }));
    target.dispatchAction({ type: 'brush', areas });
  }

  /** A river whose bars stand for several days each. */
  function together({ days, starts, series }: River, width: number): River {
    if (width === 1) return { days, starts, series };
    const sums = STATES.map((state): [RecordState, number[]] => {
      const bars = new Array<number>(Math.ceil(days.length / width)).fill(0);
      series[state].forEach((n, day) => (bars[Math.floor(day / width)]! += n));
      return [state, bars];
    });
    return {
      days: days.filter((_, day) => day % width === 0),
      starts,
      series: Object.fromEntries(sums) as River['series']
    };
  }

  /** The brushed bars as indexes; none when the view is not restricted. */
  function span(start: number | null, end: number | null): [number, number][] {
    if (!river || river.days.length === 0 || (start === null && end === null)) return [];
    const { starts } = river;
    const last = river.days.length - 1;
    /** The day that holds a moment. */
    const at = (time: number): number => {
      const behind = starts.findIndex((begins) => begins > time);
      return Math.floor(Math.max(0, behind < 0 ? last : Math.min(last, behind - 1)) / width);
    };
    return [[at(start ?? starts[0]!), at(end ?? Infinity)]];
  }

  function brushed(areas: BrushEnd['areas']): void {
    const range = areas[0]?.coordRange;
    if (!range || !river || river.days.length === 0) return onrange(null, null);
    const last = river.days.length - 1;
    const start = Math.max(0, Math.min(range[0], range[1]) * width);
    const end = Math.min(last, (Math.max(range[0], range[1]) + 1) * width - 1);
    const behind = river.starts[end + 1];
    onrange(river.starts[start] ?? null, behind === undefined ? null : behind - 1);
  }

  function draw(target: EChartsType, { days, series }: River): void {
    const color = themeColors();
    target.setOption(
      {
        animation: false,
        grid: { left: 20, right: 20, top: 24, bottom: 20 },
        toolbox: { show: false },
        brush: {
          xAxisIndex: 0,
          brushType: 'lineX',
          brushMode: 'single',
          transformable: true,
          outOfBrush: { colorAlpha: 1 },
          brushStyle: {
            color: 'rgba(31,91,74,0.10)',
            borderColor: color('--accent'),
            borderWidth: 1
          }
        },
        xAxis: {
          type: 'category',
          data: days.map(label),
          axisTick: { show: false },
          axisLine: { lineStyle: { color: color('--rule') } },
          axisLabel: {
            color: color('--soft'),
            fontSize: 11,
            fontFamily: 'Public Sans Variable',
            hideOverlap: true,
            interval: (index: number) =>
              new Date(days[index]!).getUTCDate() <= width && showsMonth(days, index)
          }
        },
        yAxis: { type: 'value', show: false },
        series: STATES.filter((state) => series[state].some((n) => n > 0)).map((state) => ({
          type: 'bar',
          stack: 'day',
          name: state,
          data: series[state],
          itemStyle: { color: color(TONES[state]) },
          barCategoryGap: '15%',
          silent: true
        }))
      },
      { replaceMerge: ['series'] }
    );
    if (isBrushed) return;
    isBrushed = true;
    target.dispatchAction({
      type: 'takeGlobalCursor',
      key: 'brush',
      brushOption: { brushType: 'lineX', brushMode: 'single' }
    });
    brush(target);
  }

  const months = new Intl.DateTimeFormat('en-GB', { month: 'short', timeZone: 'UTC' });
  const years = new Intl.DateTimeFormat('en-GB', {
    month: 'short',
    year: 'numeric',
    timeZone: 'UTC'
  });

  function label(day: number): string {
    return new Date(day).getUTCMonth() === 0 ? years.format(day) : months.format(day);
  }

  /** Every month while there is room, else every third or every January. */
  function showsMonth(days: number[], index: number): boolean {
    const month = new Date(days[index]!).getUTCMonth();
    const room = holder.clientWidth / Math.max(days.length, 1);
    if (room > 1.6) return true;
    return room > 0.5 ? month % 3 === 0 : month === 0;
  }
</script>

<div
  class="river"
  bind:this={holder}
  role="img"
  aria-label="Messages per day, stacked by state. Drag over it to restrict the days; the date fields do the same."
></div>

<style>
  .river {
    height: 92px;
    border-bottom: 1px solid var(--rule);
    background: var(--sheet);
    flex: none;
    cursor: crosshair;
  }
  @media (max-width: 600px) {
    .river {
      height: 60px;
    }
  }
</style>
