import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { chromium, type FullConfig } from '@playwright/test';
import { openDemo } from './helpers';
import { PREPARED, profileOptions, type Prepared } from './prepared';

/**
 * Examines the demo case once, before the tests: each that begins with it is
 * given a copy of this browser's profile. The way there is tested by those that
 * press the button themselves.
 */
export default async function prepare(config: FullConfig): Promise<void> {
  rmSync(PREPARED, { recursive: true, force: true });
  mkdirSync(PREPARED, { recursive: true });
  const { use } = config.projects[0]!;
  const context = await chromium.launchPersistentContext(
    `${PREPARED}/profile`,
    profileOptions(use)
  );
  // Pages of a context that no test owns know nothing of the configuration's limits.
  context.setDefaultTimeout(300_000);
  const page = context.pages()[0] ?? (await context.newPage());
  await openDemo(page);
  const prepared: Prepared = { path: new URL(page.url()).pathname };
  // Ended as a person ends it, so that everything is on the disk.
  await context.close();
  writeFileSync(`${PREPARED}/prepared.json`, JSON.stringify(prepared));
}
