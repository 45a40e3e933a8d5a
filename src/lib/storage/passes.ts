import { openStorage } from './open';

/** Writes down of all passes of a case that run or wait that they were stopped, where nobody else can. */
export async function giveUpPasses(caseId: string): Promise<void> {
  const tx = (await openStorage()).transaction('sources', 'readwrite');
  for (const source of await tx.store.index('case').getAll(caseId)) {
    const { pass } = source;
    if (pass.state !== 'running' && pass.state !== 'queued') continue;
    await tx.store.put({ ...source, pass: { ...pass, state: 'stopped', endedAt: Date.now() } });
  }
  await tx.done;
}
