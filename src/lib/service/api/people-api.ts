import type { ProxyMarked } from 'comlink';
import type { JoinReason } from '$core/case/people';

/** What the page asks about the people of a case. */
export interface PeopleApi extends ProxyMarked {
  view(): Promise<PeopleView>;
  /** The person whom an address belongs to; null where the case does not know it. */
  card(id: string): Promise<PersonCard | null>;
  /** Takes addresses for one person's. */
  join(a: string, b: string): Promise<void>;
  /** Takes an address for another person's than those that it was joined with. */
  takeOut(id: string): Promise<void>;
  /** Keeps two addresses apart, whatever speaks for their being one person's. */
  keepApart(a: string, b: string): Promise<void>;
  /** Takes an address for the owner's, or not any more. */
  setOwner(id: string, isOwner: boolean): Promise<void>;
  /** Names from a file of contact cards or a table. */
  importNames(text: string, file: string): Promise<NamesImport>;
  forgetNames(): Promise<void>;
}

export interface AddressRow {
  id: string;
  shown: string;
  /** Sources that know it. */
  sources: string[];
  /** What the sources call whom it belongs to; null where none does. */
  name: string | null;
}

export interface JoinRow {
  a: string;
  b: string;
  /** Both as they are shown: a name with an address, or the address. */
  aShown: string;
  bShown: string;
  reason: JoinReason;
  text: string;
}

/** A person with all addresses. */
export interface PersonCard {
  id: string;
  name: string;
  named: boolean;
  isOwner: boolean;
  addresses: AddressRow[];
  joins: JoinRow[];
  /** Lines of conversations with this person alone. */
  lines: number;
}

export interface PeopleView {
  people: PersonCard[];
  /** Addresses that may be one person's. */
  proposals: JoinRow[];
  /** Joins that were taken back by hand. */
  undone: JoinRow[];
  /** Names that were imported. */
  imported: number;
}

export type NamesImport =
  | {
      ok: true;
      names: number;
      /** Of them, names of somebody in the case. */
      used: number;
      /** Entries that are damaged, or have no name or no address. */
      unused: number;
    }
  | { ok: false; reason: string };
