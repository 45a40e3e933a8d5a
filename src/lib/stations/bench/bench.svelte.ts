import { z } from 'zod';
import type { DeviceView } from '$bench/devices';
import type { PutReport } from '$bench/handsets/put';
import { errorText } from '../../format';

/** Milliseconds between two looks at the bench. */
const LOOK_AGAIN = 2000;

const refusalSchema = z.object({ message: z.string() });

/** What is on the bench, looked at again and again while a page shows it. */
export class BenchDesk {
  devices = $state.raw<DeviceView[] | null>(null);
  /** Why the bench cannot be seen. */
  problem = $state<string | null>(null);
  /** What a device refused, by the device. */
  refusals = $state.raw<Record<string, string>>({});
  private timer: ReturnType<typeof setTimeout> | undefined;
  private isOpen = false;

  /** Looks now, and on until {@link stop}. */
  start(): void {
    this.isOpen = true;
    void this.watch();
  }

  stop(): void {
    this.isOpen = false;
    clearTimeout(this.timer);
  }

  private async watch(): Promise<void> {
    if (!document.hidden) await this.look();
    if (this.isOpen) this.timer = setTimeout(() => void this.watch(), LOOK_AGAIN);
  }

  async look(): Promise<void> {
    try {
      const response = await fetch('/bench');
      if (!response.ok) throw new Error(await reasonOf(response));
      this.devices = (await response.json()) as DeviceView[];
      this.problem = null;
      await this.askAgain();
    } catch (error) {
      this.unseen(error);
    }
  }

  /** A question that nobody answered is asked again. */
  private async askAgain(): Promise<void> {
    for (const { id, needs } of this.devices ?? []) {
      const open = needs['file-system'].find(({ state }) => state === 'unanswered');
      if (open?.mend) await this.act(id, open.mend.act);
    }
  }

  /** Does something to a device; whether it took it. */
  async act(id: string, act: string, value?: string): Promise<boolean> {
    try {
      return await this.done(id, act, value);
    } catch (error) {
      this.unseen(error);
      return false;
    }
  }

  private unseen(error: unknown): void {
    this.problem = `The bench cannot be reached: ${errorText(error).replace(/\.?$/, '.')} The page keeps trying.`;
  }

  private async done(id: string, act: string, value: string | undefined): Promise<boolean> {
    const response = await fetch(`/bench/${id}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ act, value })
    });
    const { [id]: _, ...others } = this.refusals;
    this.refusals = others;
    if (response.ok) {
      const view = (await response.json()) as DeviceView;
      this.devices = (this.devices ?? []).map((one) => (one.id === id ? view : one));
      return true;
    }
    const message = await reasonOf(response);
    this.refusals = { ...this.refusals, [id]: message };
    await this.look();
    return false;
  }

  /** Merges the messages of a store into a handset; with `isDry` only tells what would come. */
  async put(id: string, store: Blob, isDry: boolean): Promise<PutReport> {
    const response = await fetch(`/bench/${id}/put${isDry ? '?dry' : ''}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/octet-stream' },
      body: store
    });
    const answer: unknown = await response.json();
    if (!response.ok) throw new Error(refusalSchema.parse(answer).message);
    await this.look();
    return answer as PutReport;
  }

  /** Brings back the first state of everything. */
  async reset(): Promise<void> {
    try {
      await fetch('/bench', { method: 'DELETE' });
      this.refusals = {};
    } catch (error) {
      this.unseen(error);
      return;
    }
    await this.look();
  }
}

/** Why the bench refused, in its own words where it gave some. */
async function reasonOf(response: Response): Promise<string> {
  const told = refusalSchema.safeParse(await response.json());
  return told.success ? told.data.message : `The bench answered with ${response.status}.`;
}
