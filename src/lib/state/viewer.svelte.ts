import type { FilePlace } from '../service/api/media-api';

/** The files that are looked at in full size, one at a time. */
class Viewer {
  files = $state.raw<readonly FilePlace[]>([]);
  at = $state(0);

  /** The file that is shown; null where none is. */
  current: FilePlace | null = $derived(this.files[this.at] ?? null);

  open(files: readonly FilePlace[], at = 0): void {
    this.files = files;
    this.at = at;
  }

  step(by: number): void {
    const next = this.at + by;
    if (next >= 0 && next < this.files.length) this.at = next;
  }

  close(): void {
    this.files = [];
    this.at = 0;
  }
}

export const viewer = new Viewer();
