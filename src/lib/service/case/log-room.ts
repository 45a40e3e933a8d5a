import { proxyMarker, type ProxyMarked } from 'comlink';
import { brokenEntry } from '$core/custody';
import {
  loosePackage,
  packedPackage,
  verifyLog,
  verifyPackage,
  type Verification
} from '$core/produce';
import { custodyLog, logAct } from '../../storage/custody';
import { BlobSource } from '../host/blob-source';
import { newHash } from '../host/hash';
import type { CustodyView, NamedBlob } from '../api/protocol';

/** What the page asks about the custody log, and about records that were handed over. */
export interface LogApi extends ProxyMarked {
  /** The custody log, and where it is broken. */
  view(): Promise<CustodyView>;
  /** The custody log as a file of one entry a line. */
  save(): Promise<Blob>;
  /** Checks a package that was produced, here or elsewhere. */
  verifyArchive(archive: Blob, name: string): Promise<Verification>;
  /** The same of a package that lies in a folder. */
  verifyFolder(files: NamedBlob[], name: string): Promise<Verification>;
  /** Checks the chain of a log that was saved. */
  verifyLog(log: Blob, name: string): Promise<Verification>;
  /** Writes down that messages were put back into a device, or taken out again. */
  putBack(device: string, added: number): Promise<void>;
}

/** The custody log of a case, and the checks that are written into it. */
export class LogRoom implements LogApi {
  readonly [proxyMarker] = true as const;

  constructor(private readonly caseId: () => string) {}

  async view(): Promise<CustodyView> {
    const entries = await custodyLog(this.caseId());
    return { entries, broken: brokenEntry(entries) };
  }

  async save(): Promise<Blob> {
    const entries = await custodyLog(this.caseId());
    const text = entries.map((entry) => `${JSON.stringify(entry)}\n`).join('');
    await logAct(this.caseId(), 'log saved', { entries: entries.length });
    return new Blob([text], { type: 'application/jsonl' });
  }

  async putBack(device: string, added: number): Promise<void> {
    const what = added > 0 ? 'messages put back' : 'messages undone';
    await logAct(this.caseId(), what, added > 0 ? { device, messages: added } : { device });
  }

  async verifyArchive(archive: Blob, name: string): Promise<Verification> {
    return this.checked(name, verifyPackage(packedPackage(new BlobSource(archive, name), newHash)));
  }

  async verifyFolder(files: NamedBlob[], name: string): Promise<Verification> {
    return this.checked(name, verifyPackage(loosePackage(files, newHash)));
  }

  async verifyLog(log: Blob, name: string): Promise<Verification> {
    return this.checked(name, Promise.resolve(verifyLog(name, await log.text())));
  }

  private async checked(name: string, check: Promise<Verification>): Promise<Verification> {
    const told = await check;
    const { ok, files, differences } = told;
    await logAct(this.caseId(), 'package checked', {
      package: name,
      ok,
      files,
      differences: differences.length
    });
    return told;
  }
}
