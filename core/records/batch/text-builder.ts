import { Dictionary, Growing } from './growing';
import { ownExtra } from './read';
import type { IdForm, MessageExtra, TextColumns } from './model';
import { TextHeap } from './text-heap';

const FIRST = 4096;

/** Puts together the texts of messages from several batches. */
export class TextBuilder {
  private readonly idForms = new Dictionary<IdForm>();
  private readonly idForm = new Growing(Uint32Array, FIRST);
  private readonly idNumber = new Growing(Float64Array, FIRST);
  private readonly heap = new TextHeap();
  private readonly ends = new Growing(Uint32Array, FIRST);
  private readonly extras: [number, MessageExtra][] = [];

  /** @param ids the forms of ids in place of those of the batch. */
  add(from: TextColumns, i: number, ids: readonly IdForm[]): void {
    const { text, ends, extras } = from;
    this.heap.addBytes(text, i === 0 ? 0 : ends[i - 1]!, ends[i]!);
    const extra = extras.length === 0 ? null : ownExtra(from, i);
    if (extra) this.extras.push([this.ends.length, extra]);
    this.ends.push(this.heap.length);
    this.idForm.push(this.idForms.place(ids[from.idForm[i]!]!));
    this.idNumber.push(from.idNumber[i]!);
  }

  take(): TextColumns {
    return {
      idForms: this.idForms.list,
      idForm: this.idForm.copy(),
      idNumber: this.idNumber.copy(),
      text: this.heap.view().slice(),
      ends: this.ends.copy(),
      extras: this.extras
    };
  }
}
