import { createHash } from 'node:crypto';
import { MemorySource } from '../bytes';
import { runPass, type PassEvent } from '../pass';
import { emptyFindings, type Depth, type Findings, type Source } from '../records';

/** Runs a whole pass over files in memory and gives what it found. */
export async function passOver(
  files: Record<string, Uint8Array>,
  depth: Depth = 'freed'
): Promise<{ source: Source; findings: Findings; events: PassEvent[] }> {
  const input = {
    id: 's1',
    name: 'test',
    files: Object.entries(files).map(([name, bytes]) => new MemorySource(name, bytes))
  };
  const events: PassEvent[] = [];
  let findings = emptyFindings();
  let source: Source | null = null;
  for await (const event of runPass({ input, depth, region: null, hasher, early: false })) {
    events.push(event);
    if (event.type === 'found') findings = event.findings;
    if (event.type === 'done') source = event.source;
  }
  return { source: source!, findings, events };
}

export async function hasher(): Promise<{ update(b: Uint8Array): void; digest(): string }> {
  const hash = createHash('sha256');
  return { update: (bytes) => void hash.update(bytes), digest: () => hash.digest('hex') };
}
