import type { Call, Contact, FileRecord, Gap, Person } from '../records';
import type { InputLine, InputSection, ProductionInput } from './input';
import type { Choose } from './settings';
import { momentIn } from '../shown';

/** A chosen line, or one that stands beside it to be understood. */
export interface ChosenLine extends InputLine {
  isContext: boolean;
}

export interface ChosenSection {
  section: InputSection;
  lines: ChosenLine[];
}

/** A choice that names what the case does not hold. */
export class ChoiceError extends Error {
  override readonly name = 'ChoiceError';
}

/** Finds what a choice takes of a case; each part of the choice narrows the others. */
export class Chooser {
  private readonly tests: Tests;

  /**
   * @param zone in which days begin and end: the one in which they are printed
   * @throws ChoiceError where a part names something that the case does not hold
   */
  constructor(
    private readonly input: ProductionInput,
    private readonly choose: Choose,
    zone: string
  ) {
    this.tests = new Tests(input, choose, zone);
  }

  /** Chosen lines by conversation; of those with these ids where they are given. */
  lines(ids: ReadonlySet<string> | null, context: number): ChosenSection[] {
    return this.input.sections.flatMap((section) => {
      if (!this.tests.takesSection(section)) return [];
      const marked = section.messages.map(
        (line) => (ids === null || isAmong(ids, line)) && this.tests.takes(line)
      );
      const near = withContext(marked, context);
      const lines = section.messages.flatMap((line, i) =>
        near[i] ? [{ ...line, isContext: !marked[i] }] : []
      );
      return lines.length === 0 ? [] : [{ section, lines }];
    });
  }

  /** Calls, of the chosen people and days; where conversations or messages were chosen, of those who take part in them. */
  calls(ids: ReadonlySet<string> | null): Call[] {
    const isTheirs = this.ofThose();
    return this.input.calls.filter(
      ({ id, person, at }) =>
        (ids === null || ids.has(id)) &&
        isTheirs(person) &&
        this.tests.takesPerson(person) &&
        this.tests.takesTime(at)
    );
  }

  contacts(ids: ReadonlySet<string> | null): Contact[] {
    const isTheirs = this.ofThose();
    return this.input.contacts.filter(
      ({ id, person }) =>
        (ids === null || ids.has(id)) && isTheirs(person) && this.tests.takesPerson(person)
    );
  }

  /** Whether somebody takes part in what was chosen; everybody does where no conversation or message was. */
  private ofThose(): (person: string | null) => boolean {
    const { threads = [], messages = [] } = this.choose;
    if (threads.length + messages.length === 0) return () => true;
    const parties = new Set(this.lines(null, 0).flatMap(({ section }) => section.participants));
    return (person) => person !== null && parties.has(person);
  }

  /** Gaps beside none of the chosen lines, of no conversation in particular; none where the choice is narrowed. */
  loneGaps(shown: ReadonlySet<string>): Gap[] {
    const { threads, people, messages, states, from, to } = this.choose;
    const lists = [threads, people, messages, states];
    if (from || to || lists.some((list) => list && list.length > 0)) return [];
    const stands = (id: string | null): boolean => id !== null && shown.has(id);
    return this.input.gaps.filter(({ before, after }) => !stands(before) && !stands(after));
  }

  /** Pictures, videos and recordings that lie in a source without a line that carries them. */
  looseMedia(shown: ReadonlySet<string | null>): FileRecord[] {
    const { threads, people, messages, states } = this.choose;
    const isNarrowed = [threads, people, messages, states].some((list) => list && list.length > 0);
    if (isNarrowed) return [];
    return this.input.files.filter(
      ({ mime, sha256, createdAt, modifiedAt }) =>
        /^(image|video|audio)\//.test(mime ?? '') &&
        sha256 !== null &&
        !shown.has(sha256) &&
        this.tests.takesTime(createdAt ?? modifiedAt)
    );
  }
}

/** Whether a line, or a copy that it is shown for, is one of those. */
function isAmong(ids: ReadonlySet<string>, { message, copies = [] }: InputLine): boolean {
  return ids.has(message.id) || copies.some(({ id }) => ids.has(id));
}

/** Marks so many lines before and after each marked one too. */
function withContext(marked: readonly boolean[], lines: number): readonly boolean[] {
  if (lines === 0) return marked;
  return marked.map((_, i) =>
    marked.slice(Math.max(0, i - lines), i + lines + 1).some((isMarked) => isMarked)
  );
}

class Tests {
  private readonly threads: ReadonlySet<string> | null;
  private readonly people: ReadonlySet<string> | null;
  private readonly messages: ReadonlySet<string> | null;
  private readonly states: ReadonlySet<string> | null;
  private readonly from: number;
  private readonly to: number;

  constructor(input: ProductionInput, choose: Choose, zone: string) {
    const known = new Set(input.sections.flatMap(({ threads }) => threads));
    this.threads = wanted(choose.threads, known, 'thread');
    this.messages = wanted(choose.messages, idsIn(input), 'message');
    this.people = peopleOf(choose.people, input);
    this.states = choose.states && choose.states.length > 0 ? new Set(choose.states) : null;
    this.from = choose.from ? momentIn(choose.from, zone, 'first') : -Infinity;
    this.to = choose.to ? momentIn(choose.to, zone, 'last') : Infinity;
    if (this.from > this.to) throw new ChoiceError('The choice ends before it begins.');
  }

  takesSection({ threads, participants }: InputSection): boolean {
    const inThreads = this.threads === null || threads.some((id) => this.threads!.has(id));
    const inPeople = this.people === null || participants.some((id) => this.people!.has(id));
    return inThreads && inPeople;
  }

  takes(line: InputLine): boolean {
    const { state, sentAt, thread } = line.message;
    const isIn = (threads: ReadonlySet<string>): boolean =>
      threads.has(thread) || (line.copies ?? []).some((copy) => threads.has(copy.thread));
    return (
      (this.messages === null || isAmong(this.messages, line)) &&
      (this.threads === null || isIn(this.threads)) &&
      (this.states === null || this.states.has(state)) &&
      this.takesTime(sentAt)
    );
  }

  /** What has no time is in no span of days. */
  takesTime(at: number | null): boolean {
    if (this.from === -Infinity && this.to === Infinity) return true;
    return at !== null && at >= this.from && at <= this.to;
  }

  takesPerson(person: string | null): boolean {
    return this.people === null || (person !== null && this.people.has(person));
  }
}

/** Ids of all messages, copies among them. */
function idsIn({ sections }: ProductionInput): Set<string> {
  const ids = new Set<string>();
  for (const { messages } of sections)
    for (const { message, copies = [] } of messages) {
      ids.add(message.id);
      for (const { id } of copies) ids.add(id);
    }
  return ids;
}

function wanted(
  list: readonly string[] | undefined,
  known: ReadonlySet<string>,
  what: string
): ReadonlySet<string> | null {
  if (!list || list.length === 0) return null;
  const missing = list.find((id) => !known.has(id));
  if (missing !== undefined)
    throw new ChoiceError(`The case holds no ${what} ${JSON.stringify(missing)}.`);
  return new Set(list);
}

function peopleOf(
  list: readonly string[] | undefined,
  { people, membersOf }: ProductionInput
): ReadonlySet<string> | null {
  if (!list || list.length === 0) return null;
  const found = new Set<string>();
  for (const asked of list) {
    const fitting = people.filter((person) => isCalled(person, asked));
    if (fitting.length === 0)
      throw new ChoiceError(`The case holds nobody called ${JSON.stringify(asked)}.`);
    // Who is asked for by one address is meant with all.
    for (const { id } of fitting) for (const one of membersOf?.(id) ?? [id]) found.add(one);
  }
  return found;
}

/** Digits of a number by which it is told, however it is written. */
const LEAST_DIGITS = 6;

function isCalled({ id, name, addresses }: Person, asked: string): boolean {
  const wanted = asked.trim().toLowerCase();
  if (id === asked || name?.trim().toLowerCase() === wanted) return true;
  const digits = digitsOf(wanted);
  return addresses.some((address) => {
    if (address.toLowerCase() === wanted) return true;
    const own = digitsOf(address);
    return digits.length >= LEAST_DIGITS && own.length >= LEAST_DIGITS && own.endsWith(digits);
  });
}

function digitsOf(text: string): string {
  return /^[+\d\s().-]+$/.test(text) ? text.replace(/\D/g, '').replace(/^0+/, '') : '';
}
