import type { ChosenKind } from '$core/exhibits';
import { errorText } from '../format';
import type { OpenCase } from './desk.svelte';

/** Which records of a view are on the exhibit list, and how they get there. */
export class Choosing {
  ids = $state.raw<ReadonlySet<string>>(new Set());

  constructor(
    private readonly opened: () => OpenCase,
    private readonly kind: ChosenKind
  ) {
    $effect(() => {
      void this.open.version;
      this.open.desk.exhibits
        .chosen(this.kind)
        .then((ids) => (this.ids = ids))
        .catch((error: unknown) => this.report(error));
    });
  }

  private get open(): OpenCase {
    return this.opened();
  }

  readonly choose = (ids: string[], chosen: boolean): void => {
    const before = this.ids;
    this.keep(ids, chosen).catch((error: unknown) => {
      this.ids = before;
      this.report(error);
    });
  };

  private async keep(ids: string[], chosen: boolean): Promise<void> {
    const kept = this.open.desk.exhibits.chooseRecords(this.kind, ids, chosen);
    // Shown at once, however busy the worker is, but after the press: a box whose own tick was
    // prevented is set back when its handlers are over.
    await new Promise((resolve) => setTimeout(resolve));
    const shown = new Set(this.ids);
    for (const id of ids)
      if (chosen) shown.add(id);
      else shown.delete(id);
    this.ids = shown;
    await kept;
    this.ids = await this.open.desk.exhibits.chosen(this.kind);
    this.open.summary = await this.open.desk.summary();
  }

  private report(error: unknown): void {
    this.open.failure = `The choice was not kept: ${errorText(error)}`;
  }
}
