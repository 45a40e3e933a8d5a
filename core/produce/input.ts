import type { Attachment, Call, Contact, FileRecord, Gap, Message, Person } from '../records';
import type { ProductionSource } from './model';

/** A conversation of a case with all of its lines, in the order in which they are read. */
export interface InputSection {
  id: string;
  /** Threads of stores that it is made of. */
  threads: string[];
  /** Null where it is called by those who take part. */
  title: string | null;
  participants: string[];
  isGroup: boolean;
  messages: InputLine[];
}

/** A line that is shown. */
export interface InputLine {
  message: Message;
  line: number;
  /** The same message in other stores, for which it is shown. */
  copies?: readonly { id: string; thread: string }[];
}

/** Everything of a case that records can be produced from. */
export interface ProductionInput {
  caseName: string;
  /** IANA zone of the case. */
  zone: string;
  sources: ProductionSource[];
  sections: InputSection[];
  people: readonly Person[];
  /** Names by person, given by hand or known. */
  nameOf: (person: string | null) => { name: string; address: string };
  /** Paths of stores by their ids, to say from which one a line comes. */
  stores?: ReadonlyMap<string, string>;
  attachments: ReadonlyMap<string, Attachment>;
  calls: readonly Call[];
  contacts: readonly Contact[];
  gaps: readonly Gap[];
  files: readonly FileRecord[];
  /** All persons that are one individual with another, themselves among them; each alone where absent. */
  membersOf?: (person: string) => readonly string[];
  /** Messages outside the sections that redactions name: what is covered in them is covered everywhere. */
  elsewhere?: readonly Message[];
  /** The sections are a part of the case only. */
  isPart?: boolean;
}
