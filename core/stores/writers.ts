import type { StoreThread } from './types';

/** Who wrote in each conversation, for stores that keep no list of members. */
export class Writers {
  private readonly byThread = new Map<string, Set<string>>();
  private readonly told = new WeakSet<StoreThread>();

  add({ key }: StoreThread, sender: string | null): void {
    const known = this.byThread.get(key) ?? new Set();
    if (sender !== null && sender !== '') known.add(sender);
    this.byThread.set(key, known);
  }

  /** Makes them the participants; where nobody is known, what tells the conversation apart stays. */
  tell(thread: StoreThread): void {
    if (this.told.has(thread)) return;
    this.told.add(thread);
    const known = [...(this.byThread.get(thread.key) ?? [])];
    if (known.length > 0) thread.participants = known;
    else if (thread.title) thread.participants = [thread.title];
  }
}
