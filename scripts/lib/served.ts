import { spawn } from 'node:child_process';
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Browser } from '@playwright/test';

/** Runs some work with the built application served on a port of its own and a browser started. */
export async function withServed(
  port: string,
  work: (browser: Browser, base: string) => Promise<void>
): Promise<void> {
  await served(port, async (base) => {
    const browser = await chromium.launch({
      executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
      args: ['--no-sandbox', '--disable-gpu']
    });
    try {
      await work(browser, base);
    } finally {
      await browser.close();
    }
  });
}

/** The same without a browser. */
export async function served(port: string, work: (base: string) => Promise<void>): Promise<void> {
  const server = spawn(process.execPath, ['scripts/serve.mjs'], {
    env: {
      ...process.env,
      HOST: '127.0.0.1',
      PORT: port,
      // Simulated devices begin as they are found.
      XDG_STATE_HOME: mkdtempSync(join(tmpdir(), 'ombudsman-bench-'))
    },
    stdio: 'inherit'
  });
  try {
    const base = `http://127.0.0.1:${port}`;
    await answering(base);
    await work(base);
  } finally {
    server.kill();
  }
}

async function answering(base: string): Promise<void> {
  for (let attempt = 0; attempt < 50; attempt++) {
    const answer = await fetch(base).catch(() => null);
    if (answer?.ok) return;
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
  throw new Error(`No server at ${base}: run npm run build first.`);
}
