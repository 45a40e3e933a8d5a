import { CopyError, COPY_DEPTHS, type CopyDepth, type CopyWire } from '../../core/acquire';
import {
  BenchRefusal,
  firstLine,
  isOpen,
  type BenchAct,
  type BenchDevice,
  type CopyRequest,
  type DepthView,
  type DeviceView,
  type QuestionView
} from '../devices';
import { wireOver } from '../paced';
import { DeviceState } from '../states';
import { DATA_KINDS, type HandsetContents } from './contents';
import type { HandsetModel } from './models';
import { needsOf } from './needs';
import { packed, type Packed } from './packing';
import { putInto, type PutReport } from './put';
import { firstState, LAPSES, MOST_WRONG, withoutLapsed, type HandsetState } from './state';

const FAULTS = [
  'unplugged',
  'battery-empty',
  'permission-withdrawn',
  'no-room',
  'read-error'
] as const;

/** Copies that are kept packed. */
const MOST_PACKED = 6;

/** The store that messages were put back into, and the one before. */
const STORE = 'messages.db';
const BEFORE = 'messages-before.db';

/** Told where what happened to a device cannot be read any more. */
const PUT_ASIDE =
  'what was remembered of this device could not be read and was put aside; it stands as it first did';

/** A simulated handset: what it takes to be let in is pretended, its data are real. */
export class Handset implements BenchDevice {
  readonly id: string;
  private readonly state: DeviceState<HandsetState>;
  private first: Promise<HandsetContents> | null = null;
  private readonly packed = new Map<string, Promise<Packed>>();

  constructor(private readonly model: HandsetModel) {
    this.id = model.id;
    this.state = new DeviceState(
      model.id,
      () => firstState(model),
      (first) => ({ ...first, done: [{ at: new Date().toISOString(), text: PUT_ASIDE }] })
    );
  }

  private now(): HandsetState {
    return withoutLapsed(this.state.get(), Date.now());
  }

  private change(text: string | null, change: (state: HandsetState) => void): void {
    const state = this.now();
    change(state);
    if (text !== null) state.done.push({ at: new Date().toISOString(), text });
    this.state.set(state);
  }

  async view(): Promise<DeviceView> {
    const { model } = this;
    const state = this.now();
    const needs = Object.fromEntries(
      COPY_DEPTHS.map((depth) => [depth, needsOf(model, state, depth)])
    ) as DeviceView['needs'];
    return {
      id: model.id,
      kind: 'handset',
      name: model.name,
      detail: `${model.model}, system ${model.system}`,
      heading: `${model.model} · system ${model.system} · serial ${model.serial} · battery ${state.battery} %`,
      status: statusOf(state),
      facts: this.facts(),
      needs,
      depths: await this.depths(),
      kinds: DATA_KINDS,
      question: questionOf(model, state),
      done: state.done,
      faults: FAULTS,
      armed: state.armed,
      key: model.passcode,
      keyName: model.passcode === null ? null : 'passcode',
      snapshots: null,
      dropped: 0,
      takesMessages: true,
      putBack: state.putBack
    };
  }

  private facts(): Record<string, string> {
    const { name, model, system, serial } = this.model;
    return { name, model, system, serial };
  }

  private async depths(): Promise<DepthView[]> {
    const views: DepthView[] = [];
    for (const depth of COPY_DEPTHS) {
      const why = this.model.without[depth] ?? null;
      const files = why === null ? await this.files({ depth, kinds: null }) : {};
      const bytes = Object.values(files).reduce((sum, { length }) => sum + length, 0);
      const seconds = why === null ? Math.ceil(bytes / this.rate(depth)) : 0;
      views.push({ depth, ...YIELDS[depth], bytes, seconds, why });
    }
    return views;
  }

  private rate(depth: CopyDepth): number {
    const { files, storage } = this.model.rates;
    return depth === 'physical' ? storage : files;
  }

  act({ act, value }: BenchAct): Promise<void> {
    // Names that every object has are none of a handset's acts.
    const doing = Object.hasOwn(ACTS, act) ? ACTS[act] : undefined;
    if (!doing) throw new BenchRefusal(`A handset cannot do “${act}”.`);
    const { asked, plugged, cable, unlocked } = this.now();
    if ((act === 'allow' || act === 'refuse') && !asked)
      throw new BenchRefusal('The phone is not asking anything.');
    if (act.startsWith('ask-') && !(plugged && cable === 'data' && unlocked))
      throw new BenchRefusal('It can only ask when it is unlocked and plugged in with data.');
    if (act === 'undo-put') this.undoPut();
    else if (act === 'arm') this.arm(value ?? '');
    else if (act === 'unlock' || act === 'allow') this.withPasscode(act, value ?? '');
    else this.change(doing.text, doing.change);
    return Promise.resolve();
  }

  private arm(fault: string): void {
    const known = FAULTS.find((one) => one === fault) ?? null;
    if (known === null && fault !== '')
      throw new BenchRefusal(`${this.model.name} has no fault “${fault}”.`);
    this.change(null, (state) => (state.armed = known));
  }

  private withPasscode(act: 'unlock' | 'allow', given: string): void {
    const { passcode } = this.model;
    const { wrong } = this.now();
    if (wrong >= MOST_WRONG)
      throw new BenchRefusal('The phone accepts no more passcodes: five were wrong.', 'wrong-key');
    if (passcode !== null && given === '')
      throw new BenchRefusal('The phone wants its passcode.', 'key-needed');
    if (passcode !== null && given !== passcode) {
      this.change('wrong passcode', (state) => state.wrong++);
      const left = MOST_WRONG - wrong - 1;
      throw new BenchRefusal(
        `The passcode is wrong; ${left === 1 ? '1 try is' : `${left} tries are`} left.`,
        'wrong-key'
      );
    }
    const { text, change } = ACTS[act]!;
    this.change(text, (state) => {
      state.wrong = 0;
      change(state);
    });
  }

  async prepare(depth: CopyDepth, told: string | null): Promise<void> {
    const key = firstLine(told);
    const why = this.model.without[depth];
    if (why !== undefined) throw new BenchRefusal(why);
    if (this.model.passcode !== null && key === null)
      throw new BenchRefusal(`${this.model.name} wants its passcode.`, 'key-needed');
    for (;;) {
      const missing = needsOf(this.model, this.now(), depth).find(isOpen);
      if (!missing) return;
      if (missing.state === 'asked') await this.act({ act: 'allow', value: key ?? '' });
      else if (missing.mend) await this.act({ act: missing.mend.act, value: key ?? '' });
      else throw new BenchRefusal(`${missing.title}: ${missing.told}.`, 'wrong-key');
    }
  }

  wire({ depth, kinds }: CopyRequest, isPaced: boolean): CopyWire {
    return wireOver({
      facts: {
        device: this.id,
        facts: this.facts(),
        depth,
        kinds,
        state: `${this.id} ${this.state.get().store ?? 'first'} ${depth} ${kinds?.join('+') ?? 'all'}`
      },
      files: () => this.files({ depth, kinds }),
      check: () => this.check(depth),
      armed: () => this.state.get().armed,
      happen: (fault) => this.change(HAPPENED[fault] ?? null, (state) => happen(state, fault)),
      rate: isPaced ? this.rate(depth) : null
    });
  }

  private check(depth: CopyDepth): void {
    const why = this.model.without[depth];
    if (why !== undefined) throw new CopyError('not-ready', why);
    const missing = needsOf(this.model, this.now(), depth).filter(isOpen);
    if (missing.length === 0) return;
    const told = missing.map(({ title, told }) => `${title}: ${told}`).join('; ');
    throw new CopyError('not-ready', `The phone is not ready. ${told}.`);
  }

  /** Packed once for a state, a depth and kinds. */
  private files({ depth, kinds }: CopyRequest): Promise<Packed> {
    const key = `${this.state.get().store ?? ''} ${depth} ${kinds?.join('+') ?? 'all'}`;
    let files = this.packed.get(key);
    if (!files) {
      // Few are asked for again; what is left out is packed anew.
      if (this.packed.size >= MOST_PACKED) this.packed.clear();
      files = this.contents().then((contents) => packed(this.model, contents, depth, kinds));
      this.packed.set(key, files);
    }
    return files;
  }

  /** As it stands: with what was put back. */
  private async contents(): Promise<HandsetContents> {
    this.first ??= this.model.contents();
    const first = await this.first;
    const put = this.state.file(STORE);
    if (put === null) return first;
    const stores = first.stores.map((store) =>
      store.kind === 'messages' ? { ...store, bytes: put } : store
    );
    return { ...first, stores };
  }

  /** Merges the messages of a store of the same family into its own; a dry run only tells what would come. */
  async put(from: Uint8Array, isDry: boolean): Promise<PutReport> {
    const { stores } = await this.contents();
    const own = stores.find(({ kind }) => kind === 'messages')!.bytes;
    const { bytes, sha256, report } = putInto(this.model.family, own, from);
    if (isDry || report.added === 0) return report;
    const isFirst = this.state.file(BEFORE) === null;
    if (isFirst) this.state.setFile(BEFORE, own);
    this.state.setFile(STORE, bytes);
    this.change(`${report.added} messages put back`, (state) => {
      state.store = sha256;
      state.putBack += report.added;
    });
    return report;
  }

  private undoPut(): void {
    const { putBack } = this.now();
    if (putBack === 0) throw new BenchRefusal('Nothing was put back into this handset.');
    this.state.removeFile(STORE);
    this.state.removeFile(BEFORE);
    this.change(`${putBack} messages undone`, (state) => {
      state.store = null;
      state.putBack = 0;
    });
  }

  reset(): void {
    this.state.reset();
  }
}

function statusOf({ plugged, cable, unlocked, asked }: HandsetState): string {
  if (!plugged) return 'not plugged in';
  if (cable !== 'data') return 'charging only';
  if (asked) return 'asks a question';
  return unlocked ? 'plugged in' : 'locked';
}

function questionOf({ passcode }: HandsetModel, { asked }: HandsetState): QuestionView | null {
  if (!asked) return null;
  return {
    heading: 'The phone asks',
    text:
      asked.what === 'let-in'
        ? 'May this computer read your messages and files while it is connected?'
        : 'May the computer with the mark 9c 41 e0 7b use the developer connection?',
    field: passcode === null ? null : 'Passcode of the phone',
    allow: passcode === null ? 'Allow' : 'Allow, with passcode',
    refuse: 'Refuse',
    lapses: Math.max(0, asked.at + LAPSES - Date.now())
  };
}

const YIELDS: Record<
  CopyDepth,
  Pick<DepthView, 'live' | 'deletedRows' | 'deletedFiles' | 'changes'>
> = {
  logical: {
    live: 'messages, calls, contacts, pictures',
    deletedRows: 'none',
    deletedFiles: 'none',
    changes: 'nothing changes'
  },
  'file-system': {
    live: 'all apps, with media',
    deletedRows: 'in databases and logs',
    deletedFiles: 'none',
    changes: 'a helper app is installed and removed'
  },
  physical: {
    live: 'all apps, with media',
    deletedRows: 'in databases and logs',
    deletedFiles: 'where nothing was written over them',
    changes: 'a loader runs from memory'
  }
};

type Fault = (typeof FAULTS)[number];

function happen(state: HandsetState, fault: string): void {
  state.armed = null;
  const change: Record<Fault, () => void> = {
    unplugged: () => (state.plugged = false),
    'battery-empty': () => Object.assign(state, { battery: 2, unlocked: false }),
    'permission-withdrawn': () => (state.letIn = 'refused'),
    'no-room': () => undefined,
    'read-error': () => undefined
  };
  change[fault as Fault]();
}

const HAPPENED: Record<string, string> = {
  unplugged: 'unplugged in the middle of a copy',
  'battery-empty': 'battery ran out in the middle of a copy',
  'permission-withdrawn': 'no longer lets this computer in',
  'no-room': 'no room left for the copy',
  'read-error': 'a block could not be read'
};

interface Act {
  /** What is written down; null where the act writes itself. */
  text: string | null;
  change: (state: HandsetState) => void;
}

const nothing = (): void => undefined;

const ACTS: Record<string, Act> = {
  plug: { text: 'plugged in', change: (state) => (state.plugged = true) },
  unplug: {
    text: 'unplugged',
    change: (state) => Object.assign(state, { plugged: false, elevated: false, asked: null })
  },
  'change-cable': {
    text: 'plugged in with another cable',
    change: (state) => (state.cable = 'data')
  },
  charge: { text: 'charged', change: (state) => (state.battery = Math.max(state.battery, 35)) },
  unlock: { text: 'unlocked', change: (state) => (state.unlocked = true) },
  lock: { text: 'locked', change: (state) => (state.unlocked = false) },
  developer: { text: 'developer connection on', change: (state) => (state.developer = true) },
  'ask-let-in': {
    text: 'asked for access',
    change: (state) => Object.assign(state, { letIn: 'no', asked: asking('let-in') })
  },
  'ask-authorise': {
    text: 'asked to authorise the developer connection',
    change: (state) => Object.assign(state, { authorised: 'no', asked: asking('authorise') })
  },
  allow: { text: 'allowed on the phone', change: (state) => answer(state, 'yes') },
  refuse: { text: 'refused on the phone', change: (state) => answer(state, 'refused') },
  elevate: { text: 'helper app installed', change: (state) => (state.elevated = true) },
  'take-off': { text: 'helper app removed', change: (state) => (state.elevated = false) },
  arm: { text: null, change: nothing },
  'undo-put': { text: null, change: nothing }
};

function asking(what: 'let-in' | 'authorise'): HandsetState['asked'] {
  return { what, at: Date.now() };
}

function answer(state: HandsetState, value: 'yes' | 'refused'): void {
  if (state.asked?.what === 'let-in') state.letIn = value;
  if (state.asked?.what === 'authorise') state.authorised = value;
  state.asked = null;
}
