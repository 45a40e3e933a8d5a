import type {
  CopyOrder,
  CaseSummary,
  FacetCounts,
  CallRow,
  ContactRow,
  GapRow,
  FileFacet,
  FilePage
} from '../api/protocol';
import type { ExhibitApi } from '../exhibits/exhibit-room';
import type { InsideApi } from '../inside/inside-room';
import type { LineApi } from '../lines/line-room';
import type { LogApi } from './log-room';
import type { ProductionApi } from '../produce/production-room';
import type { ProfileApi } from '../profiles/profile-room';
import type { MediaApi } from '../api/media-api';
import type { NotesApi } from '../notes/notes-room';
import type { SummaryApi } from './summary-room';
import type { PeopleApi } from '../api/people-api';
import type { SourceApi } from './source-room';
import type { CaseRecord, CopyRecord, SourceRecord } from '../../storage/schema';

/** What the page asks of the worker that holds the case. Everything that crosses is plain data. */
export interface CaseDeskApi {
  readonly read: LineApi;
  readonly exhibits: ExhibitApi;
  readonly production: ProductionApi;
  readonly pages: InsideApi;
  readonly profiles: ProfileApi;
  readonly log: LogApi;
  readonly people: PeopleApi;
  readonly notes: NotesApi;
  readonly media: MediaApi;
  readonly figures: SummaryApi;
  readonly sources: SourceApi;
  /** @param afresh the page was not just loaded again: what was removed before is removed for good. */
  open(caseId: string, afresh: boolean): Promise<CaseSummary>;
  summary(): Promise<CaseSummary>;
  facets(): Promise<FacetCounts>;
  calls(): Promise<CallRow[]>;
  contacts(): Promise<ContactRow[]>;
  gaps(): Promise<GapRow[]>;
  files(facet: FileFacet, query: string, from: number, to: number): Promise<FilePage>;
  /** A file at any nesting of a source; null when its bytes cannot be had. */
  fileBlob(sourceId: string, path: string): Promise<Blob | null>;
  /** The same as a page can show or play it: pictures and recordings that browsers do not know as a copy. */
  pictureBlob(sourceId: string, path: string): Promise<Blob | null>;
  /** Takes a copy of a device on the bench; the source that it became, or null where it did not end. */
  takeCopy(order: CopyOrder): Promise<SourceRecord | null>;
  pauseCopy(): Promise<void>;
  resumeCopy(): Promise<void>;
  stopCopy(): Promise<void>;
  /** Copies that broke off or were cut off. */
  brokenCopies(): Promise<CopyRecord[]>;
  throwAwayCopy(key: string): Promise<void>;
  /** A copy with its checksums and its log, as one archive. */
  saveCopy(sourceId: string): Promise<Blob>;
  /** A store of a source with its chosen lines put back, for the device that it was copied from. */
  rebuiltStore(sourceId: string): Promise<Blob>;
  pausePass(): Promise<void>;
  resumePass(): Promise<void>;
  stopPass(): Promise<void>;
  setName(personId: string, name: string): Promise<void>;
  /** Joins a file to an attachment whose bytes are missing; null takes it off again. */
  joinFile(attachment: string, file: { sourceId: string; path: string } | null): Promise<void>;
  updateCase(
    change: Partial<Pick<CaseRecord, 'name' | 'client' | 'zone' | 'region'>>
  ): Promise<void>;
  exportCase(): Promise<Blob>;
}
