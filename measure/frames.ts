import type { Page } from '@playwright/test';

/** How long frames took, while a list was scrolled from its beginning to its end. */
export interface Frames {
  count: number;
  over34: number;
  over200: number;
  longest: number;
  seconds: number;
}

/** Scrolls an element end to end, a step each frame, and times the frames. */
export function scrolledThrough(page: Page, selector: string, step: number): Promise<Frames> {
  return page.evaluate(
    async ({ selector, step }) => {
      const element = document.querySelector(selector)!;
      element.scrollTop = 0;
      await new Promise((resolve) => setTimeout(resolve, 500));
      const took: number[] = [];
      let last = performance.now();
      const begun = last;
      let before = -1;
      while (element.scrollTop !== before) {
        before = element.scrollTop;
        element.scrollTop += step;
        await new Promise(requestAnimationFrame);
        const now = performance.now();
        took.push(now - last);
        last = now;
      }
      return {
        count: took.length,
        over34: took.filter((ms) => ms > 34).length,
        over200: took.filter((ms) => ms > 200).length,
        longest: Math.max(...took),
        seconds: (performance.now() - begun) / 1000
      };
    },
    { selector, step }
  );
}
