import { z } from 'zod';
import type { CopiedFrom } from '$core/case';
import { intakeSchema } from '$core/plan';
import { beginCase, newCase } from '../storage/casebook';
import { keepIntake, keptIntake } from '../storage/intake';
import type { CaseRecord, IntakeRecord } from '../storage/schema';
import type { CaseDeskApi } from '../service/case/desk-api';
import type { NamedBlob } from '../service/api/protocol';
import type { Remote } from 'comlink';
import { personId } from '$core/messages';

/** Any day behind the story's. */
const DEMO_DAY = '2026-12-31';

const demoSchema = z.object({
  name: z.string(),
  client: z.string(),
  zone: z.string(),
  region: z.string(),
  sources: z.array(
    z.object({
      name: z.string(),
      folder: z.string().optional(),
      files: z.array(z.string()),
      copied: z.custom<CopiedFrom>((value) => typeof value === 'object').optional()
    })
  ),
  intake: z.custom<IntakeRecord['document']>(
    (value) => intakeSchema.safeParse({ ...(value as object), now: DEMO_DAY }).success
  ),
  names: z.record(z.string(), z.string())
});

async function description(): Promise<z.infer<typeof demoSchema>> {
  const response = await fetch('/demo/case.json');
  // Where it is missing a server may answer with the application's own page.
  const isThere = response.ok && response.headers.get('content-type')?.includes('json');
  if (!isThere)
    throw new Error(
      'The demo’s evidence was not built. Stop the program and start it with “npm run demo”, which builds it.'
    );
  return demoSchema.parse(await response.json());
}

/** Puts a fresh demo case into the casebook; its sources are added when it is first opened. */
export async function createDemoCase(): Promise<CaseRecord> {
  const demo = await description();
  const record: CaseRecord = {
    ...newCase(demo.name, demo.client, demo.zone),
    region: demo.region,
    demo: true,
    names: Object.fromEntries(
      Object.entries(demo.names).map(([address, name]) => [personId(address), name])
    )
  };
  await beginCase(record);
  await keepIntake({ ...(await keptIntake(record.id)), document: demo.intake });
  return record;
}

/** Adds the demo's sources and begins a pass over each. */
export async function fillDemoCase(desk: Remote<CaseDeskApi>, caseId: string): Promise<void> {
  const demo = await description();
  const intake = await keptIntake(caseId);
  const linked: Record<string, string> = {};
  for (const { name, folder, files, copied } of demo.sources) {
    const blobs: NamedBlob[] = [];
    for (const path of files) {
      const url = [folder, path].flatMap((part) => part ?? []).join('/');
      const response = await fetch(`/demo/${encodeURI(url)}`);
      if (!response.ok) throw new Error(`The demo file ${path} is missing from this installation.`);
      blobs.push({ path, blob: await response.blob() });
    }
    const added = await desk.sources.add(name, blobs, {
      isNamed: true,
      ...(copied ? { copied } : {})
    });
    if (!added.ok) throw new Error(added.reason);
    const copy = intake.document.copies?.find((one) => one.name === name);
    if (copy) linked[copy.id] = added.source.id;
    await desk.sources.examine(added.source.id, 'freed');
  }
  // What was answered meanwhile stays.
  const now = await keptIntake(caseId);
  await keepIntake({ ...now, sources: { ...linked, ...now.sources } });
}
