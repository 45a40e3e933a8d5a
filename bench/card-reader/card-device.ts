import {
  CardReader,
  CopyError,
  COPY_DEPTHS,
  type CopyDepth,
  type CopyFault,
  type CopyWire
} from '../../core/acquire';
import {
  BenchRefusal,
  firstLine,
  type BenchAct,
  type BenchDevice,
  type CopyRequest,
  type DeviceView,
  type NeedView
} from '../devices';
import { DeviceState } from '../states';
import { SimulatedCard, type CardContents, type CardState } from './card';

interface ReaderState extends CardState {
  inserted: boolean;
  armed: CopyFault | null;
  done: { at: string; text: string }[];
}

const FAULTS = ['card-removed', 'read-error'] as const;
/** Commands that read after which a fault comes up. */
const READS_BEFORE_FAULT = 6;
const WHY_NOT = 'A card hands out its files, not the cells of its memory.';

/** A card reader with a card in it. */
export class CardDevice implements BenchDevice {
  readonly id = 'card';
  private readonly state = new DeviceState<ReaderState>('card', () => ({
    inserted: true,
    verified: false,
    triesLeft: 3,
    armed: null,
    done: []
  }));
  private reads = 0;
  private readonly card: SimulatedCard;

  constructor(private readonly contents: CardContents) {
    this.card = new SimulatedCard(
      contents,
      () => this.state.get(),
      ({ verified, triesLeft }) =>
        this.change(verified ? 'PIN given' : 'wrong PIN', { verified, triesLeft })
    );
  }

  private change(text: string | null, change: Partial<ReaderState>): void {
    this.state.change((state) => {
      Object.assign(state, change);
      if (text !== null) state.done.push({ at: new Date().toISOString(), text });
    });
  }

  /** Sends a command to the card, as the page does for itself. @throws CopyError when no card is in the reader */
  transmit(command: Uint8Array): Uint8Array {
    const { inserted, armed } = this.state.get();
    if (!inserted) throw new CopyError('card-removed', 'There is no card in the reader.');
    const isRead = command[1] === 0xb0 || command[1] === 0xb2;
    if (isRead && armed !== null && ++this.reads > READS_BEFORE_FAULT) {
      this.reads = 0;
      return this.happen(armed);
    }
    return this.card.transmit(command);
  }

  private happen(fault: CopyFault): Uint8Array {
    if (fault === 'read-error') {
      this.change('a record could not be read', { armed: null });
      return Uint8Array.from([0x92, 0x40]);
    }
    this.change('taken out in the middle of a reading', {
      armed: null,
      inserted: false,
      verified: false
    });
    throw new CopyError('card-removed', 'The card was taken out. Put it in again.');
  }

  view(): Promise<DeviceView> {
    const state = this.state.get();
    const bytes = Object.values(this.contents.files).reduce((sum, { length }) => sum + length, 0);
    const needs = needsOf(state);
    return Promise.resolve({
      id: this.id,
      kind: 'card-reader',
      name: 'Card in the reader',
      detail: 'SIM, elementary files of class A0',
      heading: 'card of the old handset, elementary files of class A0',
      status: statusOf(state),
      facts: { name: 'Card of the old handset' },
      needs: { logical: needs, 'file-system': needs, physical: needs },
      depths: [
        {
          depth: 'logical',
          live: 'messages in use, numbers',
          deletedRows: 'none',
          deletedFiles: 'none',
          changes: 'nothing changes',
          seconds: 1,
          bytes,
          why: null
        },
        {
          depth: 'file-system',
          live: 'every record of every file',
          deletedRows: 'records marked as free',
          deletedFiles: 'none',
          changes: 'nothing changes',
          seconds: 1,
          bytes,
          why: null
        },
        {
          depth: 'physical',
          live: '',
          deletedRows: '',
          deletedFiles: '',
          changes: '',
          seconds: 0,
          bytes: 0,
          why: WHY_NOT
        }
      ],
      kinds: [],
      question: null,
      done: state.done,
      faults: FAULTS,
      armed: state.armed,
      key: this.contents.pin,
      keyName: 'PIN',
      snapshots: null,
      dropped: 0,
      takesMessages: false,
      putBack: 0
    });
  }

  async act({ act, value = '' }: BenchAct): Promise<void> {
    switch (act) {
      case 'insert':
        return this.change('put in', { inserted: true, verified: false });
      case 'remove':
        return this.change('taken out', { inserted: false, verified: false });
      case 'pin':
        return this.givePin(value);
      case 'arm': {
        const armed = FAULTS.find((one) => one === value) ?? null;
        if (armed === null && value !== '')
          throw new BenchRefusal(`The card reader has no fault “${value}”.`);
        this.reads = 0;
        return this.change(null, { armed });
      }
      default:
        throw new BenchRefusal(`A card reader cannot do “${act}”.`);
    }
  }

  private async givePin(pin: string): Promise<void> {
    const reader = new CardReader((command) => Promise.resolve(this.transmit(command)), 'logical');
    if (this.state.get().triesLeft === 0)
      throw new BenchRefusal('The card is blocked; no PIN is tried.', 'wrong-key');
    if (!/^\d{4,8}$/.test(pin))
      throw new BenchRefusal('A PIN has four to eight digits; none was tried.', 'key-needed');
    if (await reader.verify(pin)) return;
    const { triesLeft } = this.state.get();
    const left =
      triesLeft === 0
        ? 'the card is blocked now, and no PIN is tried'
        : `${triesLeft === 1 ? '1 try is' : `${triesLeft} tries are`} left`;
    throw new BenchRefusal(`The PIN is wrong; ${left}.`, 'wrong-key');
  }

  async prepare(depth: CopyDepth, told: string | null): Promise<void> {
    const key = firstLine(told);
    if (depth === 'physical') throw new BenchRefusal(WHY_NOT);
    const { inserted, verified, triesLeft } = this.state.get();
    if (!inserted) await this.act({ act: 'insert' });
    if (triesLeft === 0)
      throw new BenchRefusal('The card is blocked; no PIN is tried.', 'wrong-key');
    if (key !== null) return this.givePin(key);
    if (!verified || !inserted) throw new BenchRefusal('The card wants its PIN.', 'key-needed');
  }

  wire({ depth }: CopyRequest): CopyWire {
    if (!COPY_DEPTHS.includes(depth) || depth === 'physical')
      throw new CopyError('not-ready', WHY_NOT);
    return new CardReader((command) => Promise.resolve(this.transmit(command)), depth);
  }

  reset(): void {
    this.state.reset();
  }
}

function statusOf({ inserted, verified, triesLeft }: ReaderState): string {
  if (!inserted) return 'no card';
  if (triesLeft === 0) return 'blocked';
  return verified ? 'open' : `PIN, ${triesLeft} tries`;
}

function needsOf({ inserted, verified, triesLeft }: ReaderState): NeedView[] {
  return [
    {
      id: 'card',
      title: 'Card in the reader',
      state: inserted ? 'holds' : 'missing',
      told: inserted ? 'it answers' : 'no card answers',
      mend: inserted ? null : { act: 'insert', label: 'Put it in' }
    },
    {
      id: 'pin',
      title: 'PIN',
      state: verified ? 'holds' : 'missing',
      told:
        triesLeft === 0
          ? 'blocked: only the operator’s unblocking number helps'
          : verified
            ? 'taken by the card'
            : `${triesLeft} tries left; a wrong one counts`,
      mend: verified || triesLeft === 0 || !inserted ? null : { act: 'pin', label: 'Give the PIN' }
    }
  ];
}
