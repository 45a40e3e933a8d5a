import {
  CopyError,
  WaitError,
  type CopyDepth,
  type CopyFault,
  type CopyWire
} from '../../core/acquire';
import {
  BenchRefusal,
  type BenchAct,
  type BenchDevice,
  type CopyRequest,
  type DepthView,
  type DeviceView,
  type NeedView,
  type QuestionView
} from '../devices';
import type { Packed } from '../handsets/packing';
import { wireOver } from '../paced';
import { DeviceState } from '../states';

/** A snapshot that the account holds. */
export interface VaultSnapshot {
  id: string;
  device: string;
  system: string;
  at: number;
  /** Opens it; null for one that is not encrypted. */
  password: string | null;
}

/** An account with what it holds. */
export interface VaultAccount {
  name: string;
  password: string;
  /** The second thing that is asked for. */
  code: string;
  /** The oldest first. */
  snapshots: readonly VaultSnapshot[];
  /** How many were there before. */
  dropped: number;
  /** A snapshot as the files of a backup, narrowed to some kinds of data. */
  filesOf(snapshot: VaultSnapshot, isWanted: (kind: string) => boolean): Packed;
  /** Messages that are kept the same on all devices, as JSON. */
  messages(): Uint8Array;
}

interface VaultState {
  signedIn: 'no' | 'password' | 'yes';
  wrong: number;
  /** Milliseconds since 1970; 0 when it is not locked. */
  lockedUntil: number;
  armed: CopyFault | null;
  done: { at: string; text: string }[];
}

const FAULTS = ['connection-lost', 'limit-reached', 'read-error'] as const;
const MOST_WRONG = 4;
const LOCKED_FOR = 10 * 60_000;
/** Bytes a second over the line. */
const RATE = 500_000;
/** Requests that are answered before the vault asks to wait, and for how long. */
const MOST_REQUESTS = 30;
const WAIT = 600;
/** Fetches that are kept packed. */
const MOST_PACKED = 6;
const WHY_NOT = 'A vault keeps what was sent to it, not the storage that it came from.';
const KINDS = ['messages', 'calls', 'contacts', 'media'] as const;
/** Before the name of a snapshot where snapshots are chosen. */
const SNAPSHOT = 'snapshot ';

/** An account of a cloud vault: snapshots of a phone, and messages that are kept in sync. */
export class Vault implements BenchDevice {
  readonly id = 'vault';
  private readonly state = new DeviceState<VaultState>('vault', () => ({
    signedIn: 'no',
    wrong: 0,
    lockedUntil: 0,
    armed: null,
    done: []
  }));
  private requests = 0;
  private askedToWait = 0;
  private readonly packed = new Map<string, Packed>();

  constructor(private readonly account: VaultAccount) {}

  private change(text: string | null, change: Partial<VaultState>): void {
    this.state.change((state) => {
      Object.assign(state, change);
      if (text !== null) state.done.push({ at: new Date().toISOString(), text });
    });
  }

  view(): Promise<DeviceView> {
    const state = this.state.get();
    const needs = needsOf(state);
    return Promise.resolve({
      id: this.id,
      kind: 'vault',
      name: this.account.name,
      detail: `cloud vault, ${this.account.snapshots.length} snapshots`,
      heading: `cloud vault · keeps the newest ${this.account.snapshots.length} snapshots`,
      status: statusOf(state),
      facts: { account: this.account.name },
      needs: { logical: needs, 'file-system': needs, physical: needs },
      depths: (['logical', 'file-system', 'physical'] as const).map((depth) => this.depth(depth)),
      kinds: KINDS,
      question: questionOf(state),
      done: state.done,
      faults: FAULTS,
      armed: state.armed,
      key: `${this.account.password}\n${this.account.code}`,
      keyName: 'password and, on a second line, the code',
      snapshots:
        state.signedIn === 'yes'
          ? this.account.snapshots.map((snapshot) => ({
              id: snapshot.id,
              device: snapshot.device,
              system: snapshot.system,
              at: new Date(snapshot.at).toISOString(),
              bytes: this.snapshotSize(snapshot.id),
              password: snapshot.password
            }))
          : null,
      dropped: this.account.dropped,
      takesMessages: false,
      putBack: 0
    });
  }

  private depth(depth: CopyDepth): DepthView {
    const isThere = depth !== 'physical';
    const bytes = isThere ? sizeOf(this.files({ depth, kinds: null })) : 0;
    return {
      depth,
      ...YIELDS[depth],
      bytes,
      seconds: Math.ceil(bytes / RATE),
      why: isThere ? null : WHY_NOT
    };
  }

  act({ act, value = '' }: BenchAct): Promise<void> {
    switch (act) {
      case 'sign-in':
        this.signIn(value);
        break;
      case 'allow':
      case 'code':
        this.giveCode(value);
        break;
      case 'sign-out':
        this.change('signed out', { signedIn: 'no' });
        break;
      case 'arm': {
        const armed = FAULTS.find((one) => one === value) ?? null;
        if (armed === null && value !== '')
          throw new BenchRefusal(`The vault has no fault “${value}”.`);
        this.change(null, { armed });
        break;
      }
      default:
        throw new BenchRefusal(`A vault cannot do “${act}”.`);
    }
    return Promise.resolve();
  }

  private refuseLocked(): void {
    const left = this.state.get().lockedUntil - Date.now();
    if (left > 0)
      throw new BenchRefusal(
        `The account is locked for ${Math.ceil(left / 60_000)} more minutes: too many passwords were wrong.`,
        'wrong-key'
      );
  }

  private wrong(what: string): never {
    const wrong = this.state.get().wrong + 1;
    const isLocked = wrong >= MOST_WRONG;
    this.change(`wrong ${what}`, {
      wrong: isLocked ? 0 : wrong,
      lockedUntil: isLocked ? Date.now() + LOCKED_FOR : 0,
      ...(isLocked ? { signedIn: 'no' } : {})
    });
    const left = MOST_WRONG - wrong;
    throw new BenchRefusal(
      isLocked
        ? `The ${what} is wrong; the account is locked for ten minutes now.`
        : `The ${what} is wrong; ${left === 1 ? '1 try is' : `${left} tries are`} left before the account is locked.`,
      'wrong-key'
    );
  }

  private signIn(password: string): void {
    this.refuseLocked();
    if (password === '')
      throw new BenchRefusal('The vault wants the account’s password.', 'key-needed');
    if (password !== this.account.password) this.wrong('password');
    this.change('password taken; a code was sent', { signedIn: 'password', wrong: 0 });
  }

  private giveCode(code: string): void {
    this.refuseLocked();
    if (this.state.get().signedIn !== 'password')
      throw new BenchRefusal('The vault wants the password first.', 'key-needed');
    if (code === '') throw new BenchRefusal('The vault wants the code it sent.', 'key-needed');
    if (code.replace(/\s/g, '') !== this.account.code) this.wrong('code');
    this.change('signed in', { signedIn: 'yes', wrong: 0 });
  }

  async prepare(depth: CopyDepth, key: string | null): Promise<void> {
    if (depth === 'physical') throw new BenchRefusal(WHY_NOT);
    if (key === null) {
      if (this.state.get().signedIn === 'yes') return;
      throw new BenchRefusal('The vault wants the account’s password and code.', 'key-needed');
    }
    const [password = '', code = ''] = key.split(/\r?\n/);
    await this.act({ act: 'sign-in', value: password });
    await this.act({ act: 'code', value: code });
  }

  wire(request: CopyRequest, isPaced: boolean): CopyWire {
    const { depth, kinds } = request;
    if (depth === 'physical') throw new CopyError('not-ready', WHY_NOT);
    const wire = wireOver({
      facts: {
        device: this.id,
        facts: { account: this.account.name },
        depth,
        kinds,
        state: `${this.id} ${depth} ${kinds?.join('+') ?? 'all'}`
      },
      files: () => Promise.resolve(this.files(request)),
      check: () => {
        if (this.state.get().signedIn !== 'yes')
          throw new CopyError('not-ready', 'Nobody is signed in to the vault.');
      },
      armed: () => this.state.get().armed,
      happen: (fault) => this.change(HAPPENED[fault] ?? null, { armed: null }),
      rate: isPaced ? RATE : null
    });
    return { list: () => wire.list(), read: (...place) => this.limited(() => wire.read(...place)) };
  }

  /** So many requests, then none until some time has passed. */
  private limited<T>(answer: () => Promise<T>): Promise<T> {
    const left = this.askedToWait + WAIT - Date.now();
    if (left > 0) throw new WaitError(left);
    if (++this.requests <= MOST_REQUESTS) return answer();
    this.requests = 0;
    this.askedToWait = Date.now();
    throw new WaitError(WAIT);
  }

  private files({ depth, kinds }: CopyRequest): Packed {
    const key = `${depth} ${kinds?.join('+') ?? 'all'}`;
    let files = this.packed.get(key);
    if (!files) {
      if (this.packed.size >= MOST_PACKED) this.packed.clear();
      files = filesOf(this.account, depth, kinds);
      this.packed.set(key, files);
    }
    return files;
  }

  /** Bytes of a snapshot within all that the account holds. */
  private snapshotSize(id: string): number {
    const all = this.files({ depth: 'file-system', kinds: null });
    const own = Object.entries(all).filter(([path]) => path.startsWith(`snapshots/${id}/`));
    return sizeOf(Object.fromEntries(own));
  }

  reset(): void {
    this.state.reset();
    this.requests = 0;
    this.askedToWait = 0;
  }
}

function filesOf(account: VaultAccount, depth: CopyDepth, kinds: readonly string[] | null): Packed {
  const chosen = (kinds ?? []).filter((kind) => !kind.startsWith(SNAPSHOT));
  const snapshots = (kinds ?? []).filter((kind) => kind.startsWith(SNAPSHOT));
  const isWanted = (kind: string): boolean => chosen.length === 0 || chosen.includes(kind);
  const files: Packed = isWanted('messages') ? { 'synced/messages.json': account.messages() } : {};
  if (depth === 'logical') return files;
  for (const snapshot of account.snapshots) {
    if (snapshots.length > 0 && !snapshots.includes(SNAPSHOT + snapshot.id)) continue;
    for (const [path, bytes] of Object.entries(account.filesOf(snapshot, isWanted)))
      files[`snapshots/${snapshot.id}/${path}`] = bytes;
  }
  return files;
}

function sizeOf(files: Packed): number {
  return Object.values(files).reduce((sum, { length }) => sum + length, 0);
}

function statusOf({ signedIn, lockedUntil }: VaultState): string {
  if (lockedUntil > Date.now()) return 'locked';
  return signedIn === 'yes' ? 'signed in' : signedIn === 'password' ? 'wants a code' : 'signed out';
}

function needsOf(state: VaultState): NeedView[] {
  const { signedIn } = state;
  const isLocked = state.lockedUntil > Date.now();
  const hasPassword = signedIn !== 'no';
  return [
    {
      id: 'password',
      title: 'Signed in with the password',
      state: hasPassword ? 'holds' : 'missing',
      told: isLocked
        ? 'locked for ten minutes after four wrong ones'
        : hasPassword
          ? 'taken'
          : 'not yet',
      mend: hasPassword || isLocked ? null : { act: 'sign-in', label: 'Sign in' }
    },
    {
      id: 'code',
      title: 'Second factor',
      state: signedIn === 'yes' ? 'holds' : signedIn === 'password' ? 'asked' : 'missing',
      told:
        signedIn === 'yes'
          ? 'code taken'
          : signedIn === 'password'
            ? 'a code was sent to the client’s phone'
            : 'comes after the password',
      mend: null
    }
  ];
}

function questionOf({ signedIn }: VaultState): QuestionView | null {
  if (signedIn !== 'password') return null;
  return {
    heading: 'The vault asks',
    text: 'Which code did we send to the phone that ends in 001?',
    field: 'Code that the client reads out',
    allow: 'Give the code',
    refuse: null,
    lapses: null
  };
}

const YIELDS: Record<
  CopyDepth,
  Pick<DepthView, 'live' | 'deletedRows' | 'deletedFiles' | 'changes'>
> = {
  logical: {
    live: 'messages kept in sync',
    deletedRows: 'none: a deletion is carried over',
    deletedFiles: 'none',
    changes: 'nothing changes'
  },
  'file-system': {
    live: 'snapshots, and messages in sync',
    deletedRows: 'in the snapshots’ databases',
    deletedFiles: 'none',
    changes: 'nothing changes'
  },
  physical: { live: '', deletedRows: '', deletedFiles: '', changes: '' }
};

const HAPPENED: Record<string, string> = {
  'connection-lost': 'connection lost',
  'limit-reached': 'limit of the account reached',
  'read-error': 'a part could not be read'
};
