import { existsSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { isAbsolute, join } from 'node:path';

/** Where what happened to simulated devices is remembered (XDG base directories, which must be absolute). */
function stateFolder(): string {
  const told = process.env.XDG_STATE_HOME ?? '';
  const base = isAbsolute(told) ? told : join(homedir(), '.local', 'state');
  return join(base, 'ombudsman', 'bench');
}

/** What is remembered of one device: a document and files beside it. */
export class DeviceState<T extends object> {
  constructor(
    private readonly id: string,
    private readonly first: () => T,
    /** What a first state says where what was remembered had to be put aside. */
    private readonly afresh: (first: T) => T = (first) => first
  ) {}

  /** As it was left, or its first state; what cannot be read is put aside, so that the others stay usable. */
  get(): T {
    const text = this.file('state.json');
    if (text === null) return this.first();
    try {
      return { ...this.first(), ...(JSON.parse(Buffer.from(text).toString()) as T) };
    } catch (error) {
      if (!(error instanceof SyntaxError)) throw error;
      const folder = join(stateFolder(), this.id);
      renameSync(join(folder, 'state.json'), join(folder, 'state.json.unreadable'));
      const state = this.afresh(this.first());
      this.set(state);
      return state;
    }
  }

  set(state: T): void {
    this.setFile('state.json', Buffer.from(JSON.stringify(state, null, 1)));
  }

  change(change: (state: T) => void): void {
    const state = this.get();
    change(state);
    this.set(state);
  }

  file(name: string): Uint8Array | null {
    const path = join(stateFolder(), this.id, name);
    return existsSync(path) ? readFileSync(path) : null;
  }

  setFile(name: string, bytes: Uint8Array): void {
    const folder = join(stateFolder(), this.id);
    mkdirSync(folder, { recursive: true });
    const partial = join(folder, `.${name}.${process.pid}`);
    writeFileSync(partial, bytes);
    renameSync(partial, join(folder, name));
  }

  removeFile(name: string): void {
    rmSync(join(stateFolder(), this.id, name), { force: true });
  }

  reset(): void {
    rmSync(join(stateFolder(), this.id), { recursive: true, force: true });
  }
}
