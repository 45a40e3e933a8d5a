import type { ChosenKind } from '$core/exhibits';
import { errorText } from '../../format';
import type { OpenCase } from '../../state/desk.svelte';
import { latest } from '../../state/latest';

/** Which records of a view are on the exhibit list, and how they get there. */
export class Choosing {
  ids = $state.raw<ReadonlySet<string>>(new Set());

  constructor(
    private readonly opened: () => OpenCase,
    private readonly kind: ChosenKind
  ) {
    $effect(() => {
      void this.open.version;
      this.last(this.asked(), (ids) => (this.ids = ids)).catch((error: unknown) =>
        this.report(error)
      );
    });
  }

  /** What was asked before a press says nothing of what stands after it. */
  private readonly last = latest();

  private asked(): Promise<ReadonlySet<string>> {
    return this.open.desk.exhibits.chosen(this.kind);
  }

  private get open(): OpenCase {
    return this.opened();
  }

  readonly choose = (ids: string[], chosen: boolean): void => {
    this.keep(ids, chosen).catch((error: unknown) => {
      this.report(error);
      // What is really kept, whatever was pressed meanwhile.
      this.last(this.asked(), (told) => (this.ids = told)).catch(() => this.untick(ids, chosen));
    });
  };

  private untick(ids: readonly string[], chosen: boolean): void {
    const before = new Set(this.ids);
    for (const id of ids)
      if (chosen) before.delete(id);
      else before.add(id);
    this.ids = before;
  }

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
    await this.last(this.asked(), (told) => (this.ids = told));
    this.open.summary = await this.open.desk.summary();
  }

  private report(error: unknown): void {
    this.open.failure = `The selection was not kept: ${errorText(error)}`;
  }
}
