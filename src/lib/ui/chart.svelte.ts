import { init, type EChartsType } from 'echarts/core';

/** A chart that fills an element for as long as its component stands; null before and after. */
export class HeldChart {
  private chart: EChartsType | null = null;

  /**
   * To be made while a component is set up.
   * @param holder the element, once it is there.
   * @param begun called with each new chart.
   */
  constructor(
    holder: () => HTMLElement,
    renderer: 'svg' | 'canvas',
    begun: (chart: EChartsType) => void = () => undefined
  ) {
    $effect(() => {
      const chart = init(holder(), null, { renderer });
      this.chart = chart;
      begun(chart);
      const watcher = new ResizeObserver(() => chart.resize());
      watcher.observe(holder());
      return () => {
        watcher.disconnect();
        chart.dispose();
        this.chart = null;
      };
    });
  }

  get current(): EChartsType | null {
    return this.chart;
  }
}

/** The theme's colours as they are now, by their names. */
export function themeColors(): (name: string) => string {
  const style = getComputedStyle(document.documentElement);
  return (name) => style.getPropertyValue(name).trim();
}
